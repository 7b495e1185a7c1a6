import { useSteady } from "../../bench/steady";
import { say } from "../../texts/say";

type LoadPictureProps = {
  width: number;
  height: number;
  carrier: string;
  mirrored: boolean;
  feed: "roll" | "sheet" | "garment";
  faces: string[];
  medium: string;
  isWet: boolean;
  cloth: string;
};

/** What goes into the printer, which face, which edge first: a roll, sheets in a tray, or a garment over the platen. */
export function LoadPicture(props: LoadPictureProps) {
  if (props.feed === "sheet") return <Tray {...props} />;
  if (props.feed === "garment") return <Platen {...props} />;
  return <Roll {...props} />;
}

/** What has to be read on the printed face. */
function ReadingCheck({
  carrier,
  mirrored,
  x,
  y,
  ground,
}: {
  carrier: string;
  mirrored: boolean;
  x: number;
  y: number;
  ground: string;
}) {
  const steady = useSteady(carrier);
  return (
    <g transform={`translate(${x} ${y})`}>
      <rect width={150} height={150} fill={ground} stroke="#5d6b71" />
      <image href={steady} x={8} y={8} width={134} height={134} />
      <text y={-6} fontSize={15} fontWeight={700} fill="var(--ink)">
        {mirrored ? say("must read BACKWARDS") : say("must read as worn")}
      </text>
    </g>
  );
}

/** Sheets in the tray: the printed face hatched, the edge that goes in first. */
function Tray({ width, height, carrier, mirrored, faces, medium }: LoadPictureProps) {
  const k = Math.min(Math.min(width, 860) / 860, height / 300);
  const face = (faces[0] ?? say("printed face")).split(":")[0];
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width / k} ${height / k}`}
      role="img"
      aria-label={say("Loading: {medium} in the tray, {face} is printed, short edge first", { medium, face })}
    >
      <defs>
        <pattern id="load-face" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="9" height="9" fill="#ffffff" />
          <path d="M0 0V9" stroke="#101416" strokeWidth="3" />
        </pattern>
      </defs>
      <g stroke="#7c868b" strokeWidth={1.5} fontSize={16} fill="var(--ink)">
        <path
          d="M330 60h210a14 14 0 0 1 14 14v150a10 10 0 0 1 -10 10H326a10 10 0 0 1 -10 -10V74a14 14 0 0 1 14 -14z"
          fill="#8b9499"
        />
        <rect x={316} y={150} width={238} height={12} fill="#3a4348" />
        <path d="M60 196L316 158V172L60 212Z" fill="#a9b1b5" />
        <path d="M84 176L300 144L318 152L104 186Z" fill="url(#load-face)" />
        <path d="M104 186L318 152V158L104 192Z" fill="#e9eef0" />
        <path d="M206 140l40 -6m-10 -8l12 7l-9 11" fill="none" stroke="var(--act)" strokeWidth={2.5} />
        <g stroke="none">
          <text x={60} y={240}>
            {say("tray: {medium}", { medium })}
          </text>
          <text x={60} y={116} fontWeight={700}>
            {say("printed: the {face} face", { face })}
          </text>
          <text x={130} y={146} textAnchor="middle" fill="var(--soft)">
            {say("this edge first")}
          </text>
          <text x={340} y={120} fill="#14181a" fontWeight={700}>
            {say("100 %, never fitted")}
          </text>
        </g>
      </g>
      <ReadingCheck carrier={carrier} mirrored={mirrored} x={640} y={40} ground="#f4f2ec" />
    </svg>
  );
}

/** The garment over the printer's platen, seen from above. */
function Platen({ width, height, carrier, mirrored, cloth }: LoadPictureProps) {
  const k = Math.min(Math.min(width, 860) / 860, height / 300);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width / k} ${height / k}`}
      role="img"
      aria-label={say("Loading: the garment over the printer's platen, collar at the back edge, seams off the edges")}
    >
      <g stroke="#7c868b" strokeWidth={1.5} fontSize={16} fill="var(--ink)">
        <rect x={70} y={20} width={300} height={250} rx={24} fill={cloth} />
        <rect
          x={120}
          y={44}
          width={200}
          height={200}
          rx={10}
          fill="none"
          stroke="#d8e2e5"
          strokeDasharray="6 5"
          strokeWidth={2}
        />
        <path d="M400 250V60m-8 12l8 -14l8 14" fill="none" stroke="var(--act)" strokeWidth={2.5} />
        <g stroke="none">
          <text x={420} y={80} fontWeight={700}>
            {say("collar at the back edge")}
          </text>
          <text x={420} y={110}>
            {say("one layer, smoothed from the middle")}
          </text>
          <text x={420} y={140} fill="var(--soft)">
            {say("dashed: the platen under the cloth;")}
          </text>
          <text x={420} y={162} fill="var(--soft)">
            {say("seams hang off its edges")}
          </text>
        </g>
      </g>
      <ReadingCheck carrier={carrier} mirrored={mirrored} x={690} y={40} ground={cloth} />
    </svg>
  );
}

/** The printer from the side: where the roll hangs, which face looks up, which edge goes first, where it falls wet. */
function Roll({ width, height, carrier, mirrored, faces, isWet }: LoadPictureProps) {
  const w = Math.min(width, 860);
  const k = Math.min(w / 860, height / 300);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width / k} ${height / k}`}
      role="img"
      aria-label={say("Loading: roll unwinds from the top, {face} to the heads, leading edge first", {
        face: faces[0] ?? say("printed face"),
      })}
    >
      <g stroke="#7c868b" strokeWidth={1.5} fontSize={16} fill="var(--ink)">
        <circle cx={86} cy={150} r={52} fill="#c9d1d4" />
        <circle cx={86} cy={150} r={38} fill="none" />
        <circle cx={86} cy={150} r={24} fill="none" />
        <circle cx={86} cy={150} r={12} fill="#a98f6b" />
        <path d="M86 98H520" stroke="#3c8fa0" strokeWidth={5} fill="none" />
        <path d="M520 98q46 4 66 48t74 62" stroke="#3c8fa0" strokeWidth={5} fill="none" />
        <path d="M96 88l26 0m-8 -6l8 6l-8 6" fill="none" stroke="var(--act)" strokeWidth={2.5} />
        <path d="M230 40h230a14 14 0 0 1 14 14v30H216V54a14 14 0 0 1 14 -14z" fill="#8b9499" />
        <path d="M216 112h258v74a10 10 0 0 1 -10 10H226a10 10 0 0 1 -10 -10z" fill="#8b9499" />
        <rect x={318} y={70} width={54} height={22} fill="#3a4348" />
        <circle cx={262} cy={104} r={11} fill="#e8ecee" />
        <circle cx={440} cy={104} r={11} fill="#e8ecee" />
        <path d="M596 214h170l-12 34H608z" fill="#cfc3a6" />
        <g stroke="none">
          <text x={20} y={226}>
            {say("roll: unwinds from the TOP")}
          </text>
          <text x={60} y={74} fontWeight={700}>
            {faces[0]?.startsWith("matte") ? say("matte face UP") : say("printed face to the heads")}
          </text>
          <text x={240} y={166} fill="#14181a" fontWeight={700}>
            {isWet ? say("heads: colour, then white") : say("heads: colour")}
          </text>
          <text x={790} y={276} textAnchor="end">
            {isWet ? say("powder tray, dry: the print falls wet side up") : say("cut where the dashed lines are")}
          </text>
          <text x={486} y={80} fill="var(--soft)">
            {say("leading edge first")}
          </text>
        </g>
      </g>
      <ReadingCheck carrier={carrier} mirrored={mirrored} x={640} y={24} ground={isWet ? "#8a9ca3" : "#f4f2ec"} />
    </svg>
  );
}
