import { say } from "../texts/say";
import { Overlay } from "../ui/Overlay";
import { Key } from "../ui/parts";

const KEYS: [string, string][] = [
  ["1 … 9, 0", say("go to a station of the line")],
  ["← →", say("the station before, the next one")],
  ["Enter", say("this station is right: go on")],
  ["A, D, E, G …", say("apply the fix beside the letter, at a station")],
  ["Z", say("undo your own last decision")],
  ["Shift Z", say("redo it")],
  ["F", say("flip the bench, or the next look")],
  ["U", say("choose an artwork file")],
  ["P", say("open press mode (at Press)")],
  ["X", say("send the run to its printer (at Print)")],
  ["N", say("new order (at Jobs)")],
  ["B, O", say("the job's ledger, its proof")],
  ["Home", say("Today: what is made when, and what is next in whose hands")],
  ["/", say("find anything: a job, a customer, a blank, a machine, a code")],
  ["J, M, K, S, R, L", say("Jobs, Machines, Blanks, Stores, Recipes, Logbook")],
  ["H", say("Colour: profiles, charts, drift, customers' colours")],
  [";", say("customers: their orders, how to reach them")],
  [".  ,", say("what things cost; the first day: fill the shop")],
  ["W, C", say("who works here; find by a label's code")],
  ["Y", say("you: change hands, units and theme")],
  ["T", say("light or dark")],
  ["Space", say("in press mode: start, go on; held: ended early")],
];

export function KeysOverlay({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Overlay title={say("Keys")} open={open} onClose={onClose} wide>
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
