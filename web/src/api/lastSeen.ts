// The page and the job that was open last are kept by a worker (public/sw.js), and shown with a word where the program
// cannot be reached.
import type { Middleware } from "openapi-fetch";
import type { Envelope } from "./client";

const IDLE_MS = 3000;
const SEEN = "seen";
const NOTICE = "last-seen";

/** Let the worker in once the page has nothing else to do. Plain HTTP from another machine has none. */
export function keepThePage(): void {
  if (!("serviceWorker" in navigator)) return;
  setTimeout(() => void navigator.serviceWorker.register("/sw.js").catch(() => undefined), IDLE_MS);
}

let told = false;

async function tell(when: string | null): Promise<void> {
  if ((when !== null) === told) return;
  told = when !== null;
  const { toast } = await import("sonner");
  if (when === null) toast.dismiss(NOTICE);
  else {
    const time = when === "" ? "" : ` at ${new Date(when).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}`;
    toast("The program cannot be reached", { id: NOTICE, duration: Infinity, description: `What was last seen${time} is shown. What is changed here waits.` });
  }
}

export const lastSeen: Middleware = {
  onResponse({ response }) {
    void tell(response.headers.get("x-last-seen"));
    return undefined;
  },
};

let later: ReturnType<typeof setTimeout> | undefined;

/** The answer to an edit is the job as it stands; kept when nobody waits. */
export function keepAsSeen(envelope: Envelope): void {
  if (!("serviceWorker" in navigator) || navigator.serviceWorker.controller === null) return;
  clearTimeout(later);
  later = setTimeout(() => {
    const answer = new Response(JSON.stringify(envelope), { headers: { "content-type": "application/json", date: new Date().toUTCString() } });
    void caches
      .open(SEEN)
      .then((cache) => cache.put(`/api/plans/${envelope.plan_id}`, answer))
      .catch(() => undefined);
  }, IDLE_MS);
}
