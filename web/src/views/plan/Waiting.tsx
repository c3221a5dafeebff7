// What waits for the program: why, and how to take it along as a file.
import { useSyncExternalStore } from "react";
import { toast } from "sonner";
import { away, waitingFile } from "../../api/outbox";
import { Button } from "../../parts/Button";
import { Popover } from "../../parts/Popover";

export function Waiting({ planId, name }: { planId: string; name: string }) {
  const why = useSyncExternalStore(away.subscribe, () => away.why(planId));
  const save = async () => {
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([await waitingFile(planId)], { type: "application/json" }));
    link.download = `waiting-${name.replace(/[^\w-]+/g, "-")}.json`;
    link.click();
    URL.revokeObjectURL(link.href);
    toast("Unsent changes saved to a file");
  };
  return (
    <Popover button="Unsent" label="Unsent changes">
      <p>{why === "" ? "The program does not answer." : `The program says: ${why}.`} What was typed is kept in this browser and is sent as soon as possible.</p>
      <div className="flex gap-2 pt-2">
        <Button onClick={() => void save()}>Save to file</Button>
        {why !== "" && (
          <Button look="quiet" onClick={() => away.giveUp(planId)}>
            Discard the first
          </Button>
        )}
      </div>
    </Popover>
  );
}
