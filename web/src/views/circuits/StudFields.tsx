// Thread and torque of the studs a run ends on, as they are stamped or printed; usual ones where nobody has said.
import type { Run } from "../../api/client";
import { Fold } from "../../parts/Fold";
import { Choice } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";

const STUDS = [["", "as usual"], ["M4", "M4"], ["M5", "M5"], ["M6", "M6"], ["M8", "M8"], ["M10", "M10"], ["M12", "M12"]] as const;
type End = Run["start"];

export function StudFields({ doc, onChange }: { doc: Run; onChange: (end: "start" | "finish", value: End) => unknown }) {
  return (
    <Fold title="Threads and torques">
      <div className="grid grid-cols-2 gap-2 pb-2">
        {(["start", "finish"] as const).map((end) => (
          <Choice
            key={end}
            label={`Thread at its ${end}`}
            value={doc[end].stud ?? ""}
            options={STUDS}
            onChange={(value) => onChange(end, { ...doc[end], stud: value === "" ? null : (value as NonNullable<End["stud"]>) })}
          />
        ))}
        {(["start", "finish"] as const).map((end) => (
          <NumberField key={end} label={`Torque at its ${end}, Nm`} hint="by its maker" value={doc[end].torque_nm} onCommit={(value) => onChange(end, { ...doc[end], torque_nm: value as number | null })} />
        ))}
      </div>
    </Fold>
  );
}
