// Over the caravan of the tour: which of its three worst findings is next, and how it is mended by hand.
import { Link } from "react-router";
import { Button } from "../../parts/Button";
import { usePlan } from "../../parts/plan";
import { WithTerms } from "../../parts/Term";
import { useTour } from "../../parts/tour";

export function TourBar() {
  const { envelope, goTo } = usePlan();
  const { tour, end } = useTour();
  if (tour === null || tour.plan !== envelope.plan_id) return null;
  const open = envelope.report.findings.filter((one) => one.waived === null);
  const left = tour.findings.filter((one) => open.some((each) => each.code === one.code && each.subject === one.subject));
  const next = left[0];
  const done = tour.findings.length - left.length;
  return (
    <section aria-label="Tour" className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b-2 border-copper bg-copper-wash px-3 py-1">
      {next === undefined ? (
        <>
          <p className="grow" role="status">
            <b>All three mended.</b> What is left stands under Checks; each number opens to its working, and each dotted word to what it means.
          </p>
          <Link to={`/plan/${envelope.plan_id}/checks`} className="inline-flex min-h-11 items-center underline" onClick={end}>
            See Checks
          </Link>
        </>
      ) : (
        <p className="grow" role="status">
          <b>
            {done + 1} of {tour.findings.length}. {next.tag !== "" && `${next.tag}: `}
            {next.what}.
          </b>{" "}
          <WithTerms text={next.mend} /> Change it in the sheet of {next.tag || "the part"}, by hand.
        </p>
      )}
      {next !== undefined && <Button onClick={() => goTo(next.subject)}>Go to {next.tag || "it"}</Button>}
      <Button look="quiet" onClick={end}>
        End the tour
      </Button>
    </section>
  );
}
