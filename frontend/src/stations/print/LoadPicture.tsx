import { useSteady } from "../../bench/steady";

type LoadPictureProps = { width: number; height: number; carrier: string; mirrored: boolean };

/** The printer from the side: where the roll hangs, which face looks up, which edge goes first, where it falls wet. */
export function LoadPicture({ width, height, carrier, mirrored }: LoadPictureProps) {
  const steady = useSteady(carrier);
  const w = Math.min(width, 860);
  const k = Math.min(w / 860, height / 300);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width / k} ${height / k}`}
      role="img"
      aria-label="Loading: roll unwinds from the top, matte face up, leading edge first, wet prints fall into the powder tray"
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
            roll: unwinds from the TOP
          </text>
          <text x={60} y={74} fontWeight={700}>
            matte face UP
          </text>
          <text x={240} y={166} fill="#14181a" fontWeight={700}>
            heads: colour, then white
          </text>
          <text x={790} y={276} textAnchor="end">
            powder tray, dry: the print falls wet side up
          </text>
          <text x={486} y={80} fill="var(--soft)">
            leading edge first
          </text>
        </g>
      </g>
      <g transform="translate(640 24)">
        <rect width={150} height={150} fill="#8a9ca3" stroke="#5d6b71" />
        <image href={steady} x={8} y={8} width={134} height={134} />
        <text y={-6} fontSize={15} fontWeight={700} fill="var(--ink)">
          {mirrored ? "must read BACKWARDS" : "must read as worn"}
        </text>
      </g>
    </svg>
  );
}
