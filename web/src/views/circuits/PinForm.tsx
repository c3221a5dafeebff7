// Insist on a size or a rating, with the reason; shows what it would have been.
import { useState } from "react";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { Choice } from "../../parts/Labelled";
import type { Options } from "../../parts/Select";

export function PinForm(props: {
  what: "wire" | "fuse";
  now: string;
  pinned: boolean;
  options: Options;
  onPin: (value: string, reason: string) => Promise<boolean>;
  onLetGo: () => Promise<boolean>;
}) {
  const [open, setOpen] = useState(false);
  const [value, setValue] = useState("");
  const [reason, setReason] = useState("");
  return (
    <div className="border-t border-line pt-3">
      <p className="text-sm">
        <span className="font-semibold">{props.what === "wire" ? "Wire" : "Fuse"}:</span> {props.now}
      </p>
      <div className="mt-2 flex gap-2">
        <Button onClick={() => setOpen(true)}>Pin the {props.what}</Button>
        {props.pinned && <Button onClick={() => void props.onLetGo()}>Unpin</Button>}
      </div>
      <Ask
        open={open}
        title={`Pin the ${props.what}`}
        about={`Now: ${props.now}. A pinned value is kept whatever the loads do; the checks still look at it.`}
        yes="Pin"
        disabled={value === "" || reason.trim() === ""}
        onYes={() => void props.onPin(value, reason).then((done) => done && setOpen(false))}
        onClose={() => setOpen(false)}
      >
        <Choice label={props.what === "wire" ? "Size" : "Rating"} value={value} options={[["", "choose"], ...props.options]} onChange={setValue} />
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Reason</span>
          <input className="field" value={reason} maxLength={400} onChange={(event) => setReason(event.target.value)} />
        </label>
      </Ask>
    </div>
  );
}
