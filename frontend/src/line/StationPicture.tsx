import { drawingOf, type Garment, type Line, type Station } from "../api/types";

const W = 64;
const H = 36;

type StationPictureProps = { station: Station; line: Line; pictures: Line["pictures"] };

/** A small live picture: what lies on the bench at that station. */
export function StationPicture({ station, line, pictures }: StationPictureProps) {
  return (
    <svg
      width={W}
      height={H}
      viewBox={`0 0 ${W} ${H}`}
      aria-hidden="true"
      className="mb-0.5 block"
      opacity={station.state === "open" ? 0.55 : 1}
    >
      <Inside station={station} line={line} pictures={pictures} />
    </svg>
  );
}

function Inside({ station, line, pictures }: StationPictureProps) {
  const order = line.stations[0] ? drawingOf(line.stations[0], "order") : null;
  const cloth = order?.garment.colour ?? "#444444";
  switch (station.station) {
    case "order":
      return order ? <SmallGarment garment={order.garment} href={null} /> : null;
    case "method": {
      const method = drawingOf(station, "method");
      if (method && !["film", "sheet"].includes(method.lies ?? "film"))
        return (
          <>
            <path d="M4 25q5-7 10 0t10 0 10 0 10 0 10 0 6 0v9H4z" fill={cloth} stroke="#8d949c" strokeWidth={0.8} />
            <path
              d="M6 24q4-6 8-1t10 0 10 0 10 0 8 0"
              fill="none"
              stroke="#2e8fb8"
              strokeWidth={method.lies === "in" ? 3 : 5}
            />
          </>
        );
      return (
        <>
          <path d="M4 25q5-7 10 0t10 0 10 0 10 0 10 0 6 0v9H4z" fill={cloth} stroke="#8d949c" strokeWidth={0.8} />
          <path d="M6 18h52v4H6z" fill="#cfc6b2" />
          <path d="M8 13h48v5H8z" fill="#ffffff" stroke="#8d949c" strokeWidth={0.8} />
          <path d="M10 8h44v5H10z" fill="#2e8fb8" />
        </>
      );
    }
    case "artwork":
      return <Framed href={pictures?.art} ground="#9aa1a5" />;
    case "colour":
      return (
        <>
          <rect x={14} y={1} width={18} height={34} fill="#f4f2ec" stroke="#a79f8f" />
          <rect x={32} y={1} width={18} height={34} fill={cloth} stroke="#8d949c" />
          {pictures && <image href={pictures.cloth} x={16} y={2} width={32} height={32} />}
        </>
      );
    case "white":
      if (station.state === "not needed")
        return <path d="M14 18h36" stroke="#8d949c" strokeWidth={2} strokeDasharray="4 4" />;
      return <Framed href={pictures?.white} ground="#000000" />;
    case "sheet": {
      const layout = drawingOf(station, "sheet")?.layout;
      if (layout?.sheet_um)
        return (
          <>
            {[8, 5, 2].map((off) => (
              <rect key={off} x={14 + off} y={2 + off / 2} width={30} height={30} fill="#f4f2ec" stroke="#8d949c" />
            ))}
            {pictures && <image href={pictures.carrier} x={20} y={7} width={22} height={22} />}
          </>
        );
      const cuts = layout ? layout.cut_lengths_um.length : 1;
      const per = layout ? Math.min(8, layout.rows_per_cut) : 3;
      return (
        <>
          <circle cx={58} cy={18} r={5} fill="none" stroke="#8d949c" strokeWidth={2} />
          <rect x={2} y={7} width={54} height={22} fill="#e9eef0" stroke="#8d949c" />
          {Array.from({ length: per * 2 }, (_, i) => (
            <rect
              key={i}
              x={5 + Math.floor(i / 2) * (50 / per)}
              y={i % 2 ? 19 : 9}
              width={44 / per}
              height={8}
              fill="#2e8fb8"
            />
          ))}
          {cuts > 1 && <path d="M56 4V32" stroke="#b83b08" strokeWidth={1.5} strokeDasharray="3 2" />}
        </>
      );
    }
    case "print":
      return (
        <>
          <rect x={12} y={4} width={40} height={14} rx={3} fill="#7c858a" />
          <path d="M18 18h28l5 13H13z" fill="#e9eef0" stroke="#8d949c" />
          {pictures && <image href={pictures.carrier} x={22} y={18} width={20} height={13} />}
        </>
      );
    case "prepare": {
      const stages = drawingOf(station, "stages")?.stages ?? [];
      if (!stages.some((s) => s.stack.some((l) => l.kind === "powder")))
        return stages.length ? (
          <>
            <path d="M8 26h48v5H8z" fill="#a89c84" />
            <path d="M12 20l34 -6l4 5l-34 6z" fill="#e9eef0" stroke="#8d949c" strokeWidth={0.8} />
            <path d="M40 8l10 10M50 8l-10 10" stroke="#7c858a" strokeWidth={1.6} />
          </>
        ) : (
          <path d="M14 18h36" stroke="#8d949c" strokeWidth={2} strokeDasharray="4 4" />
        );
      return (
        <>
          <path d="M6 28h52l-5 6H11z" fill="#a89c84" />
          <path d="M12 25h40v3H12z" fill="#e9eef0" stroke="#8d949c" strokeWidth={0.8} />
          <g fill="#8b8474">
            {[16, 22, 28, 34, 40, 46].map((x, i) => (
              <circle key={x} cx={x} cy={i % 2 ? 14 : 19} r={1.6} />
            ))}
          </g>
        </>
      );
    }
    case "press":
      return (
        <>
          {["#a8461c", "#c9bd9f", "#3d8494", cloth, "#6b7377"].map((fill, i) => (
            <path key={i} d={`M14 ${7 + i * 6.4}h28l8 -4.5h-28z`} fill={fill} stroke="#8d949c" strokeWidth={0.6} />
          ))}
        </>
      );
    default: {
      const drawing = drawingOf(station, "inspect");
      return drawing ? <SmallGarment garment={drawing.garment} href={pictures?.cloth ?? null} /> : null;
    }
  }
}

function Framed({ href, ground }: { href: string | undefined; ground: string }) {
  return (
    <>
      <rect x={14} y={1} width={36} height={34} fill={ground} stroke="#a79f8f" />
      {href && <image href={href} x={15} y={2} width={34} height={32} />}
    </>
  );
}

/** A garment with its print, as small as it has to be. */
export function SmallGarment({
  garment,
  href,
  width = W,
  height = H,
}: {
  garment: Garment;
  href: string | null;
  width?: number;
  height?: number;
}) {
  const [left, top, right, bottom] = garment.bounds_mm;
  const scale = Math.min((width - 4) / (right - left), (height - 2) / (bottom - top));
  const place = `translate(${width / 2} ${1 - top * scale}) scale(${scale})`;
  const box = garment.box;
  return (
    <g transform={place}>
      <path
        d={garment.outline}
        fill={garment.colour}
        stroke="#8d949c"
        strokeWidth={1}
        vectorEffect="non-scaling-stroke"
      />
      {box && href && (
        <image
          href={href}
          x={box.x_mm}
          y={box.y_mm}
          width={box.width_mm}
          height={box.height_mm}
          preserveAspectRatio="none"
        />
      )}
      {box && !href && (
        <rect
          x={box.x_mm}
          y={box.y_mm}
          width={box.width_mm}
          height={box.height_mm}
          fill="none"
          stroke="#7fd0da"
          strokeWidth={1.2}
          vectorEffect="non-scaling-stroke"
          strokeDasharray="2 1.5"
        />
      )}
    </g>
  );
}
