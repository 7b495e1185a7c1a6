import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import type { Line, Station } from "../api/types";
import { say } from "../texts/say";
import { worded } from "../texts/words";
import { StateMark } from "../ui/parts";
import { StationPicture } from "./StationPicture";

type LineStripProps = {
  jobId: string;
  line: Line;
  /** Pictures of what is saved: while a setting moves, the bench alone asks for new ones. */
  saved: Line["pictures"];
  here: string;
};

/** The line across the top: the piece as it stands at each station. */
export function LineStrip({ jobId, line, saved: newest, here }: LineStripProps) {
  const saved = useRested(newest);
  return (
    <nav aria-label={say("Stations")} className="flex shrink-0 overflow-x-auto border-b border-hair bg-panel">
      {line.stations.map((station, i) => (
        <Place
          key={station.station}
          jobId={jobId}
          line={line}
          saved={saved}
          station={station}
          number={i + 1}
          isHere={station.station === here}
        />
      ))}
    </nav>
  );
}

type PlaceProps = {
  jobId: string;
  line: Line;
  saved: Line["pictures"];
  station: Station;
  number: number;
  isHere: boolean;
};

function Place({ jobId, line, saved, station, number, isHere }: PlaceProps) {
  const { search } = useLocation();
  return (
    <Link
      to={{ pathname: `/jobs/${jobId}/${station.station}`, search }}
      aria-current={isHere ? "step" : undefined}
      title={say("{name}: key {number}", { name: worded(station.name), number: number % 10 })}
      className={`relative min-w-[100px] flex-1 border-r border-hair px-2 pt-1.5 pb-1.5 leading-tight last:border-r-0 ${isHere ? "bg-ground shadow-[inset_0_3px_0_var(--act)]" : "hover:bg-raise"}`}
    >
      <StationPicture station={station} line={line} pictures={saved} />
      <span className="block font-bold">{worded(station.name)}</span>
      <span className="block truncate text-sm text-soft">{station.telling}</span>
      <StateMark state={station.state} />
    </Link>
  );
}

const REST_MS = 900;

/** A value once it has been the same for a while: small pictures give way to the large one. */
function useRested<T>(value: T): T {
  const [rested, setRested] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setRested(value), REST_MS);
    return () => clearTimeout(timer);
  }, [value]);
  return rested;
}
