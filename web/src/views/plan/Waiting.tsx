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
    toast("Saved what waits");
  };
  return (
    <Popover button="What waits" label="What waits">
      <p>{why === "" ? "The program does not answer." : `The program says: ${why}.`} What was typed is kept in this browser and goes out as soon as it may.</p>
      <div className="pt-2">
        <Button onClick={() => void save()}>Save it as a file</Button>
      </div>
    </Popover>
  );
}
