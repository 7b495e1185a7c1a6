import type { Medium } from "../api/types";
import { say } from "../texts/say";

/** Both faces of a medium as the shop photographed them, and how they are told apart. */
export function MediumFaces({ card, small = false }: { card: Medium; small?: boolean }) {
  const faces = [
    {
      name: say("takes the print"),
      called: say("The face that takes the print"),
      said: card.print_face,
      photo: card.print_photo,
    },
    { name: say("its back"), called: say("The face that is its back"), said: card.back_face, photo: card.back_photo },
  ].filter((f) => f.said || f.photo);
  if (!faces.length) return null;
  return (
    <ul className="grid grid-cols-2 gap-4" aria-label={say("Its two faces")}>
      {faces.map((face) => (
        <li key={face.name}>
          {face.photo && (
            <a href={`/api/photos/${face.photo}.jpg`} target="_blank" rel="noreferrer">
              <img
                src={`/api/photos/${face.photo}.jpg`}
                alt={face.called}
                className={`${small ? "h-16" : "h-36"} w-full rounded border border-hair2 object-cover`}
              />
            </a>
          )}
          <p className="text-sm">
            <span className="font-semibold">{face.name}</span>
            {face.said && `: ${face.said}`}
          </p>
        </li>
      ))}
    </ul>
  );
}
