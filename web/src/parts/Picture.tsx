// A picture the program has drawn: shapes from the server, painted in the theme's colours. Every piece that stands for
// something can be reached by keyboard and opens it; the same content is there as a table.
import { PlainTable } from "./PlainTable";
import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { memo } from "react";
import { useSearchParams } from "react-router";
import { fileUrl, type Drawing, type Piece, type Stroke } from "../api/client";
import { pictureQuery, type PictureKind } from "../api/plans";
import { Fold } from "./Fold";
import { usePlan } from "./plan";
import { PAINT } from "./paint";
import { ZoomPan } from "./ZoomPan";

const TONE: Record<string, string> = {
  ink: "var(--ink)",
  soft: "var(--soft)",
  line: "var(--line)",
  zinc: "var(--zinc)",
  sheet: "var(--sheet)",
  copper: "var(--copper)",
  copper_wash: "var(--copper-wash)",
  stop: "var(--stop)",
  fix: "var(--fix)",
  look: "var(--look)",
  good: "var(--good)",
  stop_wash: "var(--stop-wash)",
  fix_wash: "var(--fix-wash)",
  none: "none",
  ...Object.fromEntries(Object.entries(PAINT).map(([colour, paint]) => [`wire_${colour}`, paint])),
};

function path(stroke: Stroke): string {
  const points = stroke.points.map(([x, y]) => `${x} ${y}`);
  if (!stroke.curve) return `M${points.join("L")}`;
  const bends: string[] = [];
  for (let at = 1; at + 2 < points.length; at += 3) bends.push(`C${points.slice(at, at + 3).join(",")}`);
  return `M${points[0]}${bends.join("")}`;
}

type Open = (subject: string) => void;

function PieceShapes({ piece, id, chosen, onOpen }: { piece: Piece; id: string | undefined; chosen: boolean; onOpen: Open }) {
  const { subject } = piece;
  const strokes = piece.strokes.map((stroke, index) => (
    <path
      key={index}
      d={path(stroke)}
      fill={TONE[stroke.fill]}
      stroke={TONE[stroke.tone]}
      strokeWidth={stroke.width}
      strokeDasharray={stroke.dashed ? "5 4" : undefined}
    />
  ));
  // Beside the button, not in it: its label says more than the few characters that fit on the drawing.
  const words = (
    <g aria-hidden pointerEvents="none">
      {piece.words.map((word, index) => (
        <text
          key={index}
          x={word.x}
          y={word.y}
          fontSize={word.size}
          textAnchor={word.anchor}
          fontWeight={word.bold ? 700 : 400}
          className={word.mono ? "font-mono" : "font-sans"}
          fill={TONE[word.tone]}
        >
          {word.text}
        </text>
      ))}
    </g>
  );
  if (subject === null || subject === undefined)
    return (
      <>
        <g aria-hidden>{strokes}</g>
        {words}
      </>
    );
  return (
    <>
      <g
        id={id}
        role="button"
        tabIndex={0}
        aria-label={piece.label}
        className="cursor-pointer outline-offset-2 hover:opacity-75"
        onClick={() => onOpen(subject)}
        onKeyDown={(event) => {
          if (event.key === "Enter" || event.key === " ") {
            event.preventDefault();
            onOpen(subject);
          }
        }}
      >
        <title>{piece.label}</title>
        {piece.strokes.map((stroke, index) => (
          <path key={`wide-${index}`} d={path(stroke)} fill="none" stroke={chosen ? "var(--copper-wash)" : "transparent"} strokeWidth={16} />
        ))}
        {strokes}
      </g>
      {words}
    </>
  );
}

const pieceId = (kind: string, subject: string) => `${kind}-${subject}`;

export const Shapes = memo(function Shapes({ drawing, chosen = null, onOpen }: { drawing: Drawing; chosen?: string | null; onOpen: Open }) {
  return (
    <svg
      width={drawing.width}
      height={drawing.height}
      viewBox={`0 0 ${drawing.width} ${drawing.height}`}
      role="group"
      aria-label={drawing.title}
      className="max-w-none"
    >
      {drawing.pieces.map((piece, index) => (
        <PieceShapes
          key={index}
          piece={piece}
          id={piece.subject ? pieceId(drawing.kind, piece.subject) : undefined}
          chosen={chosen !== null && piece.subject === chosen}
          onOpen={onOpen}
        />
      ))}
    </svg>
  );
});

const FILE: Record<PictureKind, string> = { map: "map.svg", board: "board.svg", "fuse-window": "fuse-window.svg", pinch: "pinch.svg", layout: "layout.svg", wiring: "wiring.svg", connections: "connections.svg" };

type Props = { kind: PictureKind; subject?: string | null; onOpen?: Open; chosen?: string | null; onPoint?: ((along: number, across: number) => void) | undefined };

export function Picture({ kind, subject = null, onOpen, chosen: named, onPoint }: Props) {
  const { envelope, stateId, goTo } = usePlan();
  const { data: drawing, error } = useQuery(pictureQuery(envelope.plan_id, envelope.revision, kind, subject, stateId));
  const [search] = useSearchParams();
  const chosen = named ?? search.get("run") ?? search.get("part");
  const battery = envelope.plan.parts?.find((part) => part.kind === "battery");
  const nameOf = (id: string | null) => [...envelope.report.runs, ...(envelope.plan.parts ?? [])].find((one) => one.id === id)?.tag ?? "what is chosen";
  if (error) return <p role="alert">{error.message}</p>;
  if (drawing === undefined) return <p className="p-4 text-soft">Drawing</p>;
  const query = new URLSearchParams();
  if (subject !== null) query.set("subject", subject);
  if (stateId !== null) query.set("state", stateId);
  return (
    <figure className="space-y-2">
      {kind === "map" || kind === "layout" || kind === "wiring" ? (
        <ZoomPan
          key={kind}
          label={drawing.title}
          width={drawing.width}
          focus={chosen === null ? null : pieceId(kind, chosen)}
          focusName={nameOf(chosen)}
          first={kind === "map" && battery !== undefined ? pieceId(kind, battery.id) : null}
          whole={kind === "map" ? null : drawing.height}
        >
          {/* While something is being put on a picture, a click says where instead of opening what lies there. */}
          <div
            className={onPoint === undefined ? "" : "cursor-crosshair"}
            onClickCapture={(event) => {
              const svg = event.currentTarget.querySelector("svg");
              const scale = drawing.scale;
              if (onPoint === undefined || svg === null || !scale) return;
              event.stopPropagation();
              const box = svg.getBoundingClientRect();
              const x = ((event.clientX - box.left) / box.width) * drawing.width;
              const y = ((event.clientY - box.top) / box.height) * drawing.height;
              onPoint((x - scale.origin_x) / scale.per_metre, (y - scale.origin_y) / scale.per_metre);
            }}
          >
            <Shapes drawing={drawing} chosen={chosen} onOpen={onOpen ?? goTo} />
          </div>
        </ZoomPan>
      ) : (
        <div className="relative overflow-auto border border-line bg-sheet [&>svg]:h-auto [&>svg]:w-full [&>svg]:max-w-full" tabIndex={0} role="region" aria-label={`${drawing.title}, scrolls`}>
          <Shapes drawing={drawing} onOpen={onOpen ?? goTo} />
        </div>
      )}
      <figcaption className="flex flex-wrap items-center gap-3 text-sm text-soft">
        <span className="grow">{drawing.note}</span>
        <a className="inline-flex min-h-11 items-center gap-1 underline" href={fileUrl(envelope.plan_id, FILE[kind], `?${query.toString()}`)} download>
          <Download size={16} aria-hidden /> SVG
        </a>
      </figcaption>
      <Fold title="The same as a table">
        <PlainTable title={drawing.title} columns={drawing.columns} rows={drawing.rows} />
      </Fold>
    </figure>
  );
}
