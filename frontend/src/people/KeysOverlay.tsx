import { Overlay } from "../ui/Overlay";
import { Key } from "../ui/parts";

const KEYS: [string, string][] = [
  ["1 … 9, 0", "go to a station of the line"],
  ["← →", "the station before, the next one"],
  ["Enter", "this station is right: go on"],
  ["A, D, E, G …", "apply the fix beside the letter, at a station"],
  ["Z", "undo your own last decision"],
  ["Shift Z", "redo it"],
  ["F", "flip the bench, or the next look"],
  ["U", "choose an artwork file"],
  ["P", "open press mode (at Press)"],
  ["X", "send the run to its printer (at Print)"],
  ["N", "new order (at Jobs)"],
  ["B, O", "the job's ledger, its proof"],
  ["Home", "Today: what is made when, and what is next in whose hands"],
  ["/", "find anything: a job, a customer, a blank, a machine, a code"],
  ["J, M, K, S, R, L", "Jobs, Machines, Blanks, Stores, Recipes, Logbook"],
  ["H", "Colour: profiles, charts, drift, customers' colours"],
  [";", "customers: their orders, how to reach them"],
  [".  ,", "what things cost; the first day: fill the shop"],
  ["W, C", "who works here; find by a label's code"],
  ["Y", "you: change hands, units and theme"],
  ["T", "light or dark"],
  ["Space", "in press mode: start, go on; held: ended early"],
];

export function KeysOverlay({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Overlay title="Keys" open={open} onClose={onClose} wide>
      <dl className="grid grid-cols-[auto_1fr_auto_1fr] gap-x-4 gap-y-1.5">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <Key>{key}</Key>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Overlay>
  );
}
