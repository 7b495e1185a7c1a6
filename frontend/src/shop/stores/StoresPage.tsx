import { useEffect, useState } from "react";
import { say } from "../../texts/say";
import { Choice } from "../../ui/parts";
import { Leftovers } from "./Leftovers";
import { Shelves } from "./Shelves";

const PARTS = [
  { id: "shelves", name: say("Shelves") },
  { id: "leftovers", name: say("Transfers left over") },
] as const;
type Part = (typeof PARTS)[number]["id"];

/** What lies in the shop: blanks, media and ink on their shelves, and transfers that jobs have left over. */
export default function StoresPage() {
  const [part, setPart] = useState<Part>("shelves");
  useEffect(() => {
    document.title = say("Stores · Offsetter");
  }, []);
  return (
    <main className="min-h-0 grow overflow-auto px-6 py-5">
      <div className="mb-3 w-80">
        <Choice hideLabel label={say("What to look at")} value={part} options={[...PARTS]} onChange={setPart} />
      </div>
      {part === "shelves" ? <Shelves /> : <Leftovers />}
    </main>
  );
}
