// Runs time: play, stop, scrub, how quick; how long is watched and on which axis.
import { Pause, Play, SkipBack } from "lucide-react";
import { Button } from "../../parts/Button";
import { OneOf } from "../../parts/OneOf";
import { Select } from "../../parts/Select";

const ENDS: readonly (readonly [string, string])[] = [
  ["", "Usual length"],
  ["0.1", "0.1 s"],
  ["1", "1 s"],
  ["10", "10 s"],
  ["60", "1 min"],
  ["300", "5 min"],
  ["1800", "30 min"],
  ["7200", "2 h"],
  ["36000", "10 h"],
];

export function Transport(props: {
  playing: boolean;
  onToggle: () => void;
  times: readonly number[];
  texts: readonly string[];
  frame: number;
  onFrame: (frame: number) => void;
  pace: number;
  paces: readonly number[];
  onPace: (pace: number) => void;
  end: number | null;
  onEnd: (end: number | null) => void;
  axis: "log" | "straight";
  onAxis: (axis: "log" | "straight") => void;
}) {
  const last = props.times.length - 1;
  return (
    <div role="group" aria-label="Time" className="sticky bottom-0 z-10 flex flex-wrap items-center gap-2 border-t-2 border-ink bg-sheet px-3 py-2">
      <Button look="main" aria-label={props.playing ? "Stop the clock" : "Run the clock"} onClick={props.onToggle}>
        {props.playing ? <Pause size={18} aria-hidden /> : <Play size={18} aria-hidden />}
      </Button>
      <Button aria-label="To the start" onClick={() => props.onFrame(0)}>
        <SkipBack size={18} aria-hidden />
      </Button>
      <output aria-live="off" className="min-w-20 text-lg font-bold">
        {props.texts[props.frame] ?? ""}
      </output>
      <input
        type="range"
        min={0}
        max={last}
        value={props.frame}
        aria-label="Moment"
        aria-valuetext={props.texts[props.frame] ?? ""}
        onChange={(event) => props.onFrame(Number(event.target.value))}
        className="h-11 min-w-40 grow accent-copper"
      />
      <Select label="Speed" className="field w-auto" value={String(props.pace)} onChange={(value) => props.onPace(Number(value))} options={props.paces.map((one) => [String(one), `× ${one}`])} />
      <Select label="Watched for" className="field w-auto" value={props.end === null ? "" : String(props.end)} onChange={(value) => props.onEnd(value === "" ? null : Number(value))} options={ENDS} />
      <div className="max-md:hidden">
      <OneOf
        label="Axis of time"
        value={props.axis}
        onChange={props.onAxis}
        options={[
          ["straight", "Even"],
          ["log", "By decades"],
        ]}
      />
      </div>
    </div>
  );
}
