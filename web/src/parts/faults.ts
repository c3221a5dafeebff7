// How a short is told in words; the same in every place.
import type { FaultReport } from "../api/client";
import { seconds } from "./format";

export function opening(fault: FaultReport): string {
  if (fault.slow_s === null) return "nothing must open";
  const who = fault.openers.join(", then ");
  if (fault.bounded) return `${who} within ${seconds(fault.slow_s)}`;
  return `${who} after ${fault.fast_s === null ? "" : `${seconds(fault.fast_s)} to `}${seconds(fault.slow_s)}`;
}

const SELECTIVE: Record<FaultReport["selective"], string> = {
  yes: "only that one",
  no: "not alone",
  unknown: "not known",
  alone: "",
};

export function selectivity(fault: FaultReport): string {
  if (fault.selective === "no") return `${fault.also_opens.join(", ")} may open first`;
  return SELECTIVE[fault.selective];
}
