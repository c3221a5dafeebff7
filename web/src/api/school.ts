// The school: who learns, drills, cases. Who it is, is kept in this browser.
import { queryOptions } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { answered, client, type Schemas } from "./client";

export type Case = Schemas["Case"];
export type Standing = Schemas["Standing"];
export type Kind = "mistake" | "fault" | "letter";

const KEPT = "lucernis-learner";

function kept(): number | null {
  try {
    const found = Number(localStorage.getItem(KEPT));
    return Number.isInteger(found) && found > 0 ? found : null;
  } catch {
    return null;
  }
}

/** The learner of this browser. */
export function useLearner(): [number | null, (id: number | null) => void] {
  const [id, setId] = useState(kept);
  const put = useCallback((next: number | null) => {
    setId(next);
    try {
      if (next === null) localStorage.removeItem(KEPT);
      else localStorage.setItem(KEPT, String(next));
    } catch {
      // A private window: it is chosen again.
    }
  }, []);
  return [id, put];
}

/** A number nobody has thought of. */
export const anySeed = () => (crypto.getRandomValues(new Uint32Array(1))[0] ?? 0) % 1_000_000;

export const learnersQuery = queryOptions({ queryKey: ["learners"], queryFn: () => answered(client.GET("/api/school/learners")) });

export const standingQuery = (id: number) =>
  queryOptions({
    queryKey: ["standing", id],
    retry: false,
    queryFn: () => answered(client.GET("/api/school/learners/{learner_id}", { params: { path: { learner_id: id } } })),
  });

export const drillQuery = (id: number, skill: string, seed: number) =>
  queryOptions({
    queryKey: ["drill", id, skill, seed],
    staleTime: Infinity,
    retry: false,
    queryFn: () => answered(client.GET("/api/school/learners/{learner_id}/drill", { params: { path: { learner_id: id }, query: { skill, seed } } })),
  });

export const caseQuery = (caseId: string) =>
  queryOptions({
    queryKey: ["case", caseId],
    retry: false,
    queryFn: () => answered(client.GET("/api/school/cases/{case_id}", { params: { path: { case_id: caseId } } })),
  });

export const codesQuery = queryOptions({ queryKey: ["codes"], staleTime: Infinity, queryFn: () => answered(client.GET("/api/school/codes")) });

export const looksQuery = (caseId: string, subject: string) =>
  queryOptions({
    queryKey: ["looks", caseId, subject],
    enabled: subject !== "",
    queryFn: () => answered(client.GET("/api/school/cases/{case_id}/offered/{subject}", { params: { path: { case_id: caseId, subject } } })),
  });

export const causesQuery = (caseId: string, subject: string) =>
  queryOptions({
    queryKey: ["causes", caseId, subject],
    enabled: subject !== "",
    queryFn: () => answered(client.GET("/api/school/cases/{case_id}/causes/{subject}", { params: { path: { case_id: caseId, subject } } })),
  });

export const addLearner = (name: string, practice: string) => answered(client.POST("/api/school/learners", { body: { name, practice } }));

export const setPractice = (id: number, practice: string) =>
  answered(client.PUT("/api/school/learners/{learner_id}/practice", { params: { path: { learner_id: id } }, body: { practice } }));

export const answer = (id: number, body: Schemas["AnswerIn"]) =>
  answered(client.POST("/api/school/learners/{learner_id}/answers", { params: { path: { learner_id: id } }, body }));

export const beginCase = (id: number, body: Schemas["NewCase"]) =>
  answered(client.POST("/api/school/learners/{learner_id}/cases", { params: { path: { learner_id: id } }, body }));

export const setMarks = (caseId: string, marks: Schemas["MarkIn"][]) =>
  answered(client.PUT("/api/school/cases/{case_id}/marks", { params: { path: { case_id: caseId } }, body: { marks } }));

export const takeLook = (caseId: string, reading: string, situation: string) =>
  answered(client.POST("/api/school/cases/{case_id}/looks", { params: { path: { case_id: caseId } }, body: { reading, situation } }));

export const handIn = (caseId: string, cause: string | null) =>
  answered(client.POST("/api/school/cases/{case_id}/hand-in", { params: { path: { case_id: caseId } }, body: { cause } }));
