import { say } from "../texts/say";

type RunFilesProps = {
  run: string;
  /** Of single prints: the address' end, and what the file is called. */
  prints: [string, string][];
  /** Cut lengths that have a cutter's files; none: no cutter follows a line. */
  cuts: number;
};

/** A released run's files, to carry to its machine. */
export function RunFiles({ run, prints, cuts }: RunFilesProps) {
  const files: [string, string][] = [
    ["run.pdf", say("whole run (PDF)")],
    ...prints,
    ...Array.from({ length: cuts }, (_, i): [string, string][] => [
      [`cut.svg?sort=${i}`, cuts > 1 ? say("cut lines {number} (SVG)", { number: i + 1 }) : say("cut lines (SVG)")],
      [`cut.dxf?sort=${i}`, "(DXF)"],
    ]).flat(),
  ];
  return (
    <p className="mt-1 flex flex-wrap gap-x-4 text-sm">
      {files.map(([file, name]) => (
        <a
          key={file}
          href={`/api/runs/${run}/${file}`}
          className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
          download
        >
          {name}
        </a>
      ))}
    </p>
  );
}
