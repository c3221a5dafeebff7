// Papers and files to build from.
import { Download, Printer } from "lucide-react";
import { fileUrl } from "../../api/client";
import { kilograms } from "../../parts/format";
import { usePlan } from "../../parts/plan";

function Row({ title, about, links }: { title: string; about: string; links: [string, string, boolean][] }) {
  return (
    <li className="flex flex-wrap items-center gap-3 border border-line bg-sheet p-3">
      <div className="min-w-0 grow basis-72">
        <h3 className="font-bold">{title}</h3>
        <p className="text-soft">{about}</p>
      </div>
      {links.map(([text, href, print]) => (
        <a
          key={href}
          href={href}
          {...(print ? { target: "_blank", rel: "noreferrer" } : { download: true })}
          className="inline-flex min-h-11 items-center gap-2 border border-line px-3 font-medium hover:bg-zinc"
        >
          {print ? <Printer size={18} aria-hidden /> : <Download size={18} aria-hidden />}
          <span className="sr-only">{title}: </span>
          {text}
        </a>
      ))}
    </li>
  );
}

export function PapersTab() {
  const { envelope } = usePlan();
  const { plan_id: id, report } = envelope;
  const netlists = report.summary.states.map((state): [string, string, boolean] => [
    state.name,
    fileUrl(id, "circuit.cir", `?state=${state.state_id}`),
    false,
  ]);
  return (
    <div className="max-w-4xl">
      <p className="mb-3 text-soft">
        {report.summary.open_stop > 0
          ? "A stop is open: the run sheet says so in print. Look at Checks first."
          : `No stop is open. Copper in all runs: ${kilograms(report.summary.copper_kg)}.`}
      </p>
      <ul className="space-y-2">
        <Row
          title="Run sheet"
          about="Every run to wire from: lengths, wire, fuse, drop; open and waived findings behind it."
          links={[
            ["A4", fileUrl(id, "run-sheet.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "run-sheet.pdf", "?paper=letter"), true],
          ]}
        />
        <Row
          title="Fuse map"
          about="For the lid of each fuse block, way by way."
          links={[
            ["A4", fileUrl(id, "fuse-map.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "fuse-map.pdf", "?paper=letter"), true],
            ["With a code for the log", fileUrl(id, "fuse-map.pdf", "?qr=true"), true],
          ]}
        />
        <Row
          title="Cut list"
          about="Every piece by size and colour, longest first, with what goes on either end; boxes to tick."
          links={[
            ["A4", fileUrl(id, "cut-list.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "cut-list.pdf", "?paper=letter"), true],
          ]}
        />
        <Row
          title="Order of work"
          about="Every step in order, what to have in the hand and what to mind; the first power-up with room for readings."
          links={[
            ["A4", fileUrl(id, "order.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "order.pdf", "?paper=letter"), true],
          ]}
        />
        <Row
          title="Proving sheet"
          about="Every reading in order: the state to make, where the probes go, what to expect, a box to write in."
          links={[
            ["A4", fileUrl(id, "proving-sheet.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "proving-sheet.pdf", "?paper=letter"), true],
          ]}
        />
        <Row
          title="Labels"
          about="A label for both ends of every piece, a page each for a strip printer; flags for big cable. With a code from 19 mm on, which opens the run at this address."
          links={[
            ["9 mm", fileUrl(id, "labels-9.pdf"), true],
            ["12 mm", fileUrl(id, "labels-12.pdf"), true],
            ["19 mm", fileUrl(id, "labels-19.pdf"), true],
            ["24 mm", fileUrl(id, "labels-24.pdf"), true],
            ["19 mm, codes", fileUrl(id, "labels-19.pdf", "?qr=true"), true],
            ["24 mm, codes", fileUrl(id, "labels-24.pdf", "?qr=true"), true],
          ]}
        />
        <Row
          title="Plates"
          about="For batteries, switches and the lids of blocks, to be cut out."
          links={[
            ["A4", fileUrl(id, "plates.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "plates.pdf", "?paper=letter"), true],
          ]}
        />
        <Row
          title="Why each size"
          about="What decided each wire, why not thinner and why not thicker, and what it still stands."
          links={[
            ["A4", fileUrl(id, "reasons.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "reasons.pdf", "?paper=letter"), true],
          ]}
        />
        <Row title="Plan" about="The whole plan as an open JSON document; it can be brought in again on the shelf." links={[["JSON", fileUrl(id, "plan.json"), false]]} />
        <Row
          title="Pieces and sleeves"
          about="Every piece with its ends, and the texts of both sleeves of each for a program that prints labels."
          links={[
            ["Pieces CSV", fileUrl(id, "cut-list.csv"), false],
            ["Labels CSV", fileUrl(id, "labels.csv"), false],
          ]}
        />
        <Row
          title="Tables"
          about="Runs with all figures; loads in columns that can be brought in again; every short; the volts to expect in each state; channels in columns that can be brought in again, and what lies in each."
          links={[
            ["Runs CSV", fileUrl(id, "runs.csv"), false],
            ["Loads CSV", fileUrl(id, "loads.csv"), false],
            ["Short circuits CSV", fileUrl(id, "faults.csv"), false],
            ["States CSV", fileUrl(id, "states.csv"), false],
            ["Channels CSV", fileUrl(id, "channels.csv"), false],
            ["Bundles CSV", fileUrl(id, "bundles.csv"), false],
          ]}
        />
        <Row
          title="Drawings"
          about="Roof-off plan, step-down map and state board; the fuse window and the pinch chart of each circuit."
          links={[
            ["A4", fileUrl(id, "drawings.pdf", "?paper=a4"), true],
            ["Letter", fileUrl(id, "drawings.pdf", "?paper=letter"), true],
            ["Map SVG", fileUrl(id, "map.svg"), false],
            ["Board SVG", fileUrl(id, "board.svg"), false],
            ["Layout SVG", fileUrl(id, "layout.svg"), false],
          ]}
        />
        <Row
          title="Report"
          about="Every figure, finding and working as JSON; its schema is published beside it."
          links={[
            ["JSON", fileUrl(id, "report.json"), false],
            ["Schema", "/api/schema/report", true],
          ]}
        />
        <Row title="Circuit" about="SPICE netlist of one operating state." links={netlists} />
      </ul>
      <p className="mt-4 text-sm text-soft">{report.caution}</p>
    </div>
  );
}
