// Asked once, where nobody has been asked yet and the caravan of the tour stands on the shelf.
import { useMutation } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { answered, client } from "../../api/client";
import { Button } from "../../parts/Button";
import { useTour } from "../../parts/tour";

const WORST = 3;

export function TourCard({ planId }: { planId: string }) {
  const { begin, end } = useTour();
  const navigate = useNavigate();
  const start = useMutation({
    mutationFn: () => answered(client.GET("/api/plans/{plan_id}", { params: { path: { plan_id: planId } } })),
    onSuccess: (envelope) => {
      const worst = envelope.report.findings.filter((one) => one.waived === null && one.subject !== "plan").slice(0, WORST);
      begin({ plan: planId, findings: worst.map(({ code, subject, tag, what, mend }) => ({ code, subject, tag, what, mend })) });
      void navigate(`/plan/${planId}/checks`);
    },
    onError: (error) => toast.error("The tour cannot begin", { description: error.message }),
  });
  return (
    <section aria-label="First time here" className="mb-4 flex flex-wrap items-center gap-3 border-l-8 border-copper bg-sheet p-3">
      <p className="grow">
        <b>First time here?</b> Five minutes on Plover, an old caravan as it was found: mend its three worst findings by hand.
      </p>
      <Button look="main" disabled={start.isPending} onClick={() => start.mutate()}>
        Begin the tour
      </Button>
      <Button look="quiet" onClick={end}>
        Not now
      </Button>
    </section>
  );
}
