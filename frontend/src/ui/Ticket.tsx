import { say } from "../texts/say";
/** The job on paper, to lie beside the work. */
export function TicketLink({ job }: { job: string }) {
  return (
    <a
      href={`/api/jobs/${job}/ticket.pdf`}
      target="_blank"
      rel="noreferrer"
      className="inline-flex min-h-7 items-center font-semibold text-act underline underline-offset-2"
    >
      {say("Job ticket (PDF)")}
    </a>
  );
}
