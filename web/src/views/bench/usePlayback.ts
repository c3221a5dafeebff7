// Plays a course: which frame is shown now. Frames were all computed before; here a clock runs over them.
import { useCallback, useEffect, useRef, useState } from "react";

function frameAt(times: readonly number[], moment: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if ((times[middle] ?? 0) <= moment) low = middle;
    else high = middle - 1;
  }
  return low;
}

export function usePlayback(end: number, usual: number) {
  const [moment, setMoment] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState<number | null>(null);
  const at = useRef(0);
  const pace = speed ?? usual;
  const show = useCallback((next: number) => {
    at.current = next;
    setMoment(next);
  }, []);
  useEffect(() => {
    if (!playing) return;
    let before: number | null = null;
    let asked = 0;
    const tick = (now: number) => {
      const passed = before === null ? 0 : (now - before) / 1000;
      before = now;
      const next = Math.min(at.current + passed * pace, end);
      show(next);
      if (next >= end) setPlaying(false);
      else asked = requestAnimationFrame(tick);
    };
    asked = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(asked);
  }, [playing, pace, end, show]);
  const toggle = useCallback(() => {
    if (!playing && at.current >= end) show(0);
    setPlaying(!playing);
  }, [playing, end, show]);
  const scrub = useCallback(
    (next: number) => {
      setPlaying(false);
      show(next);
    },
    [show],
  );
  return { moment, playing, pace, toggle, scrub, setSpeed, frameAt };
}
