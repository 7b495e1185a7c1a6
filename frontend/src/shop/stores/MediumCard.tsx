import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, sent, told } from "../../api/client";
import type { Medium, Shelf } from "../../api/types";
import { say } from "../../texts/say";
import { MediumFaces } from "../../ui/MediumFaces";
import { Overlay } from "../../ui/Overlay";
import { Button } from "../../ui/parts";
import { Refused, useSaying } from "../../ui/saying";
import { TakeFile } from "../../ui/TakeFile";
import { Typed } from "../../ui/Typed";

const PHOTOGRAPH = {
  print: say("Photograph the face that takes the print"),
  back: say("Photograph its back"),
};

/** A roll's or sheet's card: which face takes the print, in words and in photographs of one's own. */
export function MediumCard({ shelf, onClose }: { shelf: Shelf; onClose: () => void }) {
  const media = shelf.item.slice(shelf.item.indexOf("/") + 1);
  const query = useQuery({
    queryKey: ["medium", media],
    queryFn: () => told<Medium>(api.GET("/api/media", { params: { query: { media } } })),
  });
  return (
    <Overlay
      open
      onClose={onClose}
      title={shelf.name}
      sub={say("Print shows this card where it is loaded: nobody has to try which face it is.")}
    >
      {query.data ? (
        <Written card={query.data} onClose={onClose} />
      ) : (
        <p className="text-soft">{say("Opening the card…")}</p>
      )}
    </Overlay>
  );
}

function Written({ card, onClose }: { card: Medium; onClose: () => void }) {
  const queries = useQueryClient();
  const { wrong, tell } = useSaying();
  const [face, setFace] = useState(card.print_face ?? "");
  const [back, setBack] = useState(card.back_face ?? "");
  const [thick, setThick] = useState(card.thickness_um == null ? "" : String(card.thickness_um));
  const [opacity, setOpacity] = useState(card.opacity_pct == null ? "" : String(card.opacity_pct));
  const [note, setNote] = useState(card.note ?? "");
  const figure = (text: string) => (text.trim() ? Number(text.replace(",", ".")) : null);
  const again = () => Promise.all([["medium"], ["job"]].map((queryKey) => queries.invalidateQueries({ queryKey })));
  const save = async () => {
    const body: Medium = {
      ...card,
      print_face: face.trim(),
      back_face: back.trim(),
      thickness_um: figure(thick),
      opacity_pct: figure(opacity),
      note: note.trim(),
    };
    if (await tell(told(api.PUT("/api/media", { body })))) {
      await again();
      onClose();
    }
  };
  const photograph = async (which: "print" | "back", file: File) => {
    const media = encodeURIComponent(card.media);
    if (await tell(sent<Medium>(`/api/media/photos/${which}?media=${media}`, file))) await again();
  };
  return (
    <form
      noValidate
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <MediumFaces card={{ ...card, print_face: "", back_face: "" }} />
      <div className="flex flex-wrap gap-2">
        {(["print", "back"] as const).map((which) => (
          <TakeFile
            key={which}
            byCamera
            label={PHOTOGRAPH[which]}
            accept="image/jpeg,image/png,image/webp"
            onTaken={(file) => void photograph(which, file)}
          >
            {PHOTOGRAPH[which]}
          </TakeFile>
        ))}
      </div>
      <Typed
        label={say("The face that takes the print")}
        hint={say("matte, rough to a wet finger")}
        value={face}
        onChange={setFace}
      />
      <Typed label={say("Its back")} hint={say("glossy, the maker's pattern")} value={back} onChange={setBack} />
      <div className="grid grid-cols-2 gap-3">
        <Typed label={say("Thick, µm")} value={thick} onChange={setThick} />
        <Typed label={say("Hides what lies under it, %")} value={opacity} onChange={setOpacity} />
      </div>
      <Typed
        label={say("What else is known of it")}
        hint={say("two sheets at least, or it does not feed")}
        value={note}
        onChange={setNote}
      />
      <Refused said={wrong} />
      <div className="flex gap-2">
        <Button kind="go" type="submit">
          {say("Keep the card")}
        </Button>
        <Button onClick={onClose}>{say("Leave it")}</Button>
      </div>
    </form>
  );
}
