// Proving and fault finding: the list with what was read, meters on the network, causes ranked.
import { queryOptions } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { answered, client, type Schemas } from "./client";

/** What is known of the day: volts of batteries measured just now, as b1:12.63,b2:12.60, and the sky. */
export type Day = { measured: string; sky: string };
export const ANY_DAY: Day = { measured: "", sky: "" };

// Asked for anew when the record has grown.
export const provingQuery = (planId: string, revision: number, entries: number, day: Day = ANY_DAY) =>
  queryOptions({
    queryKey: ["proving", planId, revision, entries, day],
    placeholderData: (before) => before,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/proving", { params: { path: { plan_id: planId }, query: day } })),
  });

export const logQuery = (planId: string, revision: number, entries: number) =>
  queryOptions({
    queryKey: ["log", planId, revision, entries],
    placeholderData: (before) => before,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/log", { params: { path: { plan_id: planId } } })),
  });

export const boardQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["board", planId, revision],
    placeholderData: (before) => before,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/board", { params: { path: { plan_id: planId } } })),
  });

export const choicesQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["fault-choices", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/faults/choices", { params: { path: { plan_id: planId } } })),
  });

export const offeredQuery = (planId: string, revision: number, subject: string) =>
  queryOptions({
    queryKey: ["offered", planId, revision, subject],
    queryFn: () =>
      answered(client.GET("/api/plans/{plan_id}/faults/offered/{subject}", { params: { path: { plan_id: planId, subject } } })),
  });

export const judge = (planId: string, line: string, typed: string, leads_ohm: number, day: Day) =>
  answered(client.POST("/api/plans/{plan_id}/proving/judge", { params: { path: { plan_id: planId } }, body: { line, typed, leads_ohm, ...day } }));

export const findFault = (planId: string, body: Schemas["FaultIn"]) =>
  answered(client.POST("/api/plans/{plan_id}/faults", { params: { path: { plan_id: planId } }, body }));

/** A meter on this machine or the workshop's network. */
export type MeterPlace = { name: string; host: string; port: number };
const KEPT = "lucernis-meters";
export const NO_METER: MeterPlace = { name: "", host: "", port: 0 };

function keptMeters(): { meters: MeterPlace[]; chosen: string } {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? "null") as { meters?: MeterPlace[]; chosen?: string } | null;
    return { meters: kept?.meters ?? [], chosen: kept?.chosen ?? "" };
  } catch {
    return { meters: [], chosen: "" };
  }
}

/** The meters this browser knows, and the one that is read just now. */
export function useMeters() {
  const [kept, setKept] = useState(keptMeters);
  const put = useCallback((meters: MeterPlace[], chosen: string) => {
    setKept({ meters, chosen });
    try {
      localStorage.setItem(KEPT, JSON.stringify({ meters, chosen }));
    } catch {
      // A private window: it is typed again.
    }
  }, []);
  return { meters: kept.meters, chosen: kept.meters.find((one) => one.name === kept.chosen) ?? NO_METER, put };
}

export const readMeter = (planId: string, meter: MeterPlace, reading: string, situation: string) =>
  answered(
    client.POST("/api/plans/{plan_id}/meter", {
      params: { path: { plan_id: planId } },
      body: { host: meter.host, port: meter.port, reading, situation },
    }),
  );

const MONITOR_PORT = 5026;

/** Volts, amps and charge of a battery monitor that says lines of JSON. */
export const readMonitor = (host: string) => answered(client.POST("/api/monitor", { body: { host, port: MONITOR_PORT } }));
