// A view that cannot be fetched or falls over: most often the program was brought up to date under an open page. The
// page is loaded anew once; what was typed waits in the browser.
import { Component, type ReactNode } from "react";
import { Button } from "./Button";

const LOADED = "lucernis-loaded-anew";
const ONCE_MS = 15_000;

function lately(): boolean {
  try {
    const last = Number(sessionStorage.getItem(LOADED) ?? 0);
    sessionStorage.setItem(LOADED, String(Date.now()));
    return Date.now() - last < ONCE_MS;
  } catch {
    // Nothing is kept here: it is asked for by hand.
    return true;
  }
}

export class Upgraded extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override componentDidCatch() {
    if (!lately()) window.location.reload();
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <main className="space-y-3 p-8">
        <h1 className="text-xl font-bold">This view cannot be shown</h1>
        <p>The program may have been brought up to date, or it does not answer. What was typed is kept in this browser.</p>
        <div className="flex gap-2">
          <Button look="main" onClick={() => window.location.reload()}>
            Reload page
          </Button>
          <Button onClick={() => window.location.assign("/")}>Back to the shelf</Button>
        </div>
      </main>
    );
  }
}
