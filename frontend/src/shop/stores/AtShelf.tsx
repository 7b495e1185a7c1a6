import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, told } from "../../api/client";
import type { Shelf, Shelved, StockKind } from "../../api/types";
import { say } from "../../texts/say";
import { Overlay } from "../../ui/Overlay";
import { Button, Choice } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { Typed } from "../../ui/Typed";
import { when } from "../../ui/when";
import { amount } from "./amount";

const KINDS: { id: StockKind; name: string; asks: string }[] = [
  { id: "counted", name: say("Counted"), asks: say("How much lies there?") },
  { id: "received", name: say("Received"), asks: say("How much came?") },
  { id: "spoiled", name: say("Spoiled"), asks: say("How much is spoiled?") },
  { id: "taken", name: say("Taken"), asks: say("How much went elsewhere?") },
  { id: "returned", name: say("Put back"), asks: say("How much came back?") },
];

type AtShelfProps = { shelf: Shelf; onClose: () => void; onDone: () => void };

/** What somebody does at one shelf, what was done there before, and where it comes from. */
export function AtShelf({ shelf, onClose, onDone }: AtShelfProps) {
  const [kind, setKind] = useState<StockKind>(shelf.is_counted ? "received" : "counted");
  const [mark] = useState(() => crypto.randomUUID());
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  const [lot, setLot] = useState("");
  const [expires, setExpires] = useState("");
  const { wrong, tell } = useSaying();
  const id = useId();
  const chosen = KINDS.find((k) => k.id === kind);
  const value = Number(text.replace(",", "."));
  const isNumber = text.trim() !== "" && Number.isFinite(value) && value >= 0;
  const after = { counted: value, received: shelf.on_hand + value, returned: shelf.on_hand + value }[kind as string];
  const off = kind === "counted" && shelf.is_counted && isNumber ? value - shelf.on_hand : 0;
  const save = async () => {
    const body = { id: mark, item: shelf.item, kind, amount: value, reason, lot, expires: expires || null };
    if (await tell(told(api.POST("/api/stock/acts", { body })))) onDone();
  };
  return (
    <Overlay
      open
      onClose={onClose}
      title={shelf.name}
      sub={
        shelf.is_counted
          ? say("{there} on hand, jobs want {wanted}", {
              there: amount(shelf, shelf.on_hand),
              wanted: amount(shelf, shelf.wanted),
            })
          : say("Nobody has counted it yet.")
      }
    >
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void save();
        }}
      >
        <Choice hideLabel label={say("What was done")} value={kind} options={KINDS} onChange={setKind} />
        <div>
          <label htmlFor={`${id}-amount`} className="font-semibold">
            {chosen?.asks}
          </label>
          <div className="flex items-center gap-2">
            <input
              id={`${id}-amount`}
              className="field num w-40"
              inputMode="decimal"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <span className="text-soft">{shelf.unit || say("pieces")}</span>
            {isNumber && (
              <span className="num">
                {say("then {amount}", { amount: amount(shelf, after ?? shelf.on_hand - value) })}
                {off !== 0 && (
                  <span className="text-need">
                    {say(", {off} against the books", { off: `${off > 0 ? "+" : ""}${amount(shelf, off)}` })}
                  </span>
                )}
              </span>
            )}
          </div>
        </div>
        <Typed
          label={say("Why")}
          value={reason}
          onChange={setReason}
          hint={off ? say("what explains the difference") : say("if it wants saying")}
        />
        {kind === "received" && (
          <div className="grid grid-cols-2 gap-3">
            <Typed label={say("Lot")} value={lot} onChange={setLot} />
            <div>
              <label htmlFor={`${id}-expires`} className="font-semibold">
                {say("Good until")}
              </label>
              <input
                id={`${id}-expires`}
                type="date"
                className="field"
                value={expires}
                onChange={(e) => setExpires(e.target.value)}
              />
            </div>
          </div>
        )}
        <Refused said={wrong} />
        <div className="flex gap-2">
          <Button kind="go" type="submit" disabled={!isNumber}>
            {say("Record it")}
          </Button>
          <Button onClick={onClose}>{say("Leave it")}</Button>
        </div>
      </form>
      <SupplyForm shelf={shelf} onDone={onDone} />
      <History item={shelf.item} shelf={shelf} />
    </Overlay>
  );
}

function SupplyForm({ shelf, onDone }: { shelf: Shelf; onDone: () => void }) {
  const [supplier, setSupplier] = useState(shelf.supply.supplier ?? "");
  const [days, setDays] = useState(String(shelf.supply.lead_days));
  const [least, setLeast] = useState(String(shelf.supply.least));
  const [pack, setPack] = useState(String(shelf.supply.pack));
  const { wrong, tell } = useSaying();
  const save = async () => {
    const supply = { supplier, lead_days: Math.round(Number(days)), least: Number(least), pack: Number(pack) };
    if (await tell(told(api.PUT("/api/stock/supply", { body: { item: shelf.item, supply } })))) onDone();
  };
  return (
    <details className="mt-4 border-t border-hair pt-3">
      <summary className="cursor-pointer font-semibold">{say("Where it comes from")}</summary>
      <div className="mt-2 grid grid-cols-2 gap-3">
        <Typed label={say("Supplier")} value={supplier} onChange={setSupplier} />
        <Typed label={say("Days until it arrives")} value={days} onChange={setDays} />
        <Typed
          label={shelf.unit ? say("Kept at least, {unit}", { unit: shelf.unit }) : say("Kept at least")}
          value={least}
          onChange={setLeast}
        />
        <Typed
          label={shelf.unit ? say("In a package, {unit}", { unit: shelf.unit }) : say("In a package")}
          value={pack}
          onChange={setPack}
        />
      </div>
      <Refused said={wrong} />
      <div className="mt-2">
        <Button onClick={() => void save()}>{say("Keep this")}</Button>
      </div>
    </details>
  );
}

function History({ item, shelf }: { item: string; shelf: Shelf }) {
  const query = useQuery({
    queryKey: ["stock-acts", item],
    queryFn: () => told<Shelved[]>(api.GET("/api/stock/acts", { params: { query: { item } } })),
  });
  const said = {
    counted: say("counted"),
    received: say("received"),
    spoiled: say("spoiled"),
    taken: say("taken"),
    returned: say("put back"),
  };
  if (!query.data?.length) return null;
  return (
    <section className="mt-4 border-t border-hair pt-3" aria-label={say("What was done here")}>
      <h3 className="font-semibold">{say("What was done here")}</h3>
      <ul className="text-sm">
        {query.data.map((a) => (
          <li key={`${a.at}${a.kind}${a.amount}`} className="border-b border-hair py-1">
            <span className="num font-semibold">
              {a.change > 0 ? "+" : ""}
              {amount(shelf, a.change)}
            </span>{" "}
            {said[a.kind]}
            {a.actor && say(" by {actor}", { actor: a.actor })}, {when(a.at)}
            {a.lot && say(", lot {lot}", { lot: a.lot })}
            {a.expires && (
              <span className={a.is_expiring ? "text-need" : ""}>
                {say(", good until {expires}", { expires: a.expires })}
              </span>
            )}
            {a.reason && `: ${a.reason}`}
          </li>
        ))}
      </ul>
    </section>
  );
}
