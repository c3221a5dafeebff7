// A year hour by hour arrives as lines: how far it is, then the outcome. Closing the connection ends the simulation.
import { useCallback, useEffect, useRef, useState } from "react";
import { answered, client, yearLines } from "../../api/client";
import type { Days } from "./queries";

type Line = { done?: number; days?: Days; problem?: string };

export function useYear(planId: string, revision: number) {
  const [done, setDone] = useState<number | null>(null);
  const [found, setFound] = useState<{ revision: number; days: Days } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const running = useRef<AbortController | null>(null);
  const cancel = useCallback(() => {
    running.current?.abort();
    running.current = null;
    setDone(null);
  }, []);
  // A plan that has changed has another year.
  useEffect(() => cancel, [cancel, revision]);
  const start = () => {
    const control = new AbortController();
    running.current = control;
    setDone(0);
    setProblem(null);
    const told = (line: Line) => {
      if (line.done !== undefined) setDone(line.done);
      if (line.days) setFound({ revision, days: line.days });
      if (line.problem) setProblem(line.problem);
    };
    yearLines(planId, control.signal, (text) => told(JSON.parse(text) as Line))
      .catch((error: unknown) => {
        if (!control.signal.aborted) setProblem(error instanceof Error ? error.message : String(error));
      })
      .finally(() => {
        if (running.current === control) cancel();
      });
  };
  return { done, found: found !== null && found.revision === revision ? found.days : null, problem, start, cancel, clear: () => setFound(null) };
}

function nameOf(file: string): string {
  const clean = file.toLowerCase().replace(/\.[^.]*$/, "").replace(/[^a-z0-9_-]+/g, "-").replace(/^[^a-z]+/, "");
  return (clean || "weather").slice(0, 40);
}

export async function bringWeather(file: File): Promise<string> {
  const name = nameOf(file.name);
  const text = await file.text();
  await answered(
    client.POST("/api/weather", { params: { query: { name } }, body: text, bodySerializer: (body) => body, headers: { "content-type": "text/plain" } }),
  );
  return name;
}
