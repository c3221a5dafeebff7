// A drawing that is moved and zoomed: wheel, pinch, drag, keys, and buttons for whoever has none of them at hand.
import { Maximize, Minus, MoveHorizontal, Plus, Target } from "lucide-react";
import { useEffect, useRef, type KeyboardEvent, type ReactNode } from "react";
import { TransformComponent, TransformWrapper, useTransformEffect, type ReactZoomPanPinchRef } from "react-zoom-pan-pinch";
import { Popover } from "./Popover";
import { Tool, Toolbar } from "./Toolbar";

const SMALLEST = 0.2;
const LARGEST = 4;
// A drag of more than this is not a press on what lies under it.
const STILL_PX = 5;

function Percent() {
  const shown = useRef<HTMLSpanElement>(null);
  useTransformEffect(({ state }) => {
    if (shown.current !== null) shown.current.textContent = `${Math.round(100 * state.scale)} %`;
  });
  return <span ref={shown} className="w-14 text-center font-mono text-sm">100 %</span>;
}

export function ZoomPan({ label, width, focus, focusName, first, whole = null, children }: { label: string; width: number; focus: string | null; focusName: string; first: string | null; whole?: number | null; children: ReactNode }) {
  const held = useRef<ReactZoomPanPinchRef>(null);
  const pressed = useRef({ x: 0, y: 0 });
  const toWidth = () => {
    const frame = held.current?.instance.wrapperComponent;
    if (frame) void held.current?.setTransform(0, 0, Math.max(SMALLEST, frame.clientWidth / width));
  };
  const toFull = () => void held.current?.setTransform(0, 0, 1);
  const toAll = () => void held.current?.fitToView({ minScale: SMALLEST });
  const toPart = () => {
    if (focus !== null) void held.current?.zoomToElement(focus, { scale: Math.max(1, held.current.state.scale) });
  };
  // What has been chosen comes into sight, also once its sheet has taken part of the room.
  useEffect(() => {
    if (focus === null || document.getElementById(focus) === null) return undefined;
    const later = setTimeout(() => void held.current?.zoomToElement(focus, { scale: held.current.state.scale }), 120);
    return () => clearTimeout(later);
  }, [focus]);
  // At full size from the left edge, with the battery's row in the middle.
  const begin = (ref: ReactZoomPanPinchRef) => {
    const frame = ref.instance.wrapperComponent;
    // A plan of the vehicle: across the whole width, but never so small that its type cannot be read.
    if (whole !== null && frame !== null) {
      void ref.setTransform(0, 0, Math.max(1, frame.clientWidth / width), 0);
      return;
    }
    const element = first === null ? null : document.getElementById(first);
    if (frame === null || !(element instanceof SVGGraphicsElement)) return;
    const box = element.getBBox();
    void ref.setTransform(0, Math.min(0, frame.clientHeight / 2 - box.y - box.height / 2), 1, 0);
  };
  const keys: Record<string, () => void> = { "0": toFull, w: toWidth, a: toAll, p: toPart };
  const onKeyDown = (event: KeyboardEvent) => {
    const act = event.ctrlKey || event.metaKey || event.altKey ? undefined : keys[event.key.toLowerCase()];
    if (act === undefined) return;
    event.preventDefault();
    act();
  };
  return (
    <TransformWrapper
      ref={held}
      onInit={begin}
      minScale={SMALLEST}
      maxScale={LARGEST}
      limitToBounds={false}
      wheel={{ step: 0.001 }}
      keyboard={{ disabled: false, panStep: 80, zoomStep: 0.2 }}
      doubleClick={{ disabled: true }}
      panning={{ velocityDisabled: true }}
    >
      <div className="border border-line bg-sheet" onKeyDown={onKeyDown}>
        <div className="flex flex-wrap items-center gap-x-2 border-b border-line">
          <Toolbar label="Zoom">
            <Tool label="Smaller" tip="Smaller (−)" onClick={() => void held.current?.zoomOut(0.25)}>
              <Minus size={20} />
            </Tool>
            <Percent />
            <Tool label="Larger" tip="Larger (+)" onClick={() => void held.current?.zoomIn(0.25)}>
              <Plus size={20} />
            </Tool>
            <Tool label="1:1, full size" tip="Full size, 100 % (0)" onClick={toFull}>
              <span className="font-mono text-sm">1:1</span>
            </Tool>
            <Tool label="Fit to width" tip="Fit to width (W)" onClick={toWidth}>
              <MoveHorizontal size={20} />
            </Tool>
            <Tool label="All of it" tip="All of it (A)" onClick={toAll}>
              <Maximize size={18} />
            </Tool>
            <Tool label={focus === null ? "To what is chosen" : `To ${focusName}`} tip="To what is chosen (P)" disabled={focus === null} onClick={toPart}>
              <Target size={20} />
            </Tool>
          </Toolbar>
          <span className="grow" />
          <Popover button="Keys" label="Moving about the drawing">
            <p>Drag to move, wheel or pinch to zoom.</p>
            <p>Arrows move · + and − zoom · 0 full size · W to width · A all of it · P to what is chosen.</p>
            <p>Tab goes from part to part, Enter opens it.</p>
          </Popover>
        </div>
        <div
          className={whole === null ? "h-[max(20rem,calc(100dvh-19rem))]" : "h-72 @3xl:h-[max(18rem,min(34rem,calc(100dvh-23rem)))]"}
          onPointerDownCapture={(event) => {
            pressed.current = { x: event.clientX, y: event.clientY };
          }}
          onClickCapture={(event) => {
            const { x, y } = pressed.current;
            if (event.detail > 0 && Math.hypot(event.clientX - x, event.clientY - y) > STILL_PX) event.stopPropagation();
          }}
        >
          <TransformComponent
            wrapperStyle={{ width: "100%", height: "100%", cursor: "grab" }}
            wrapperProps={{ tabIndex: 0, role: "region", "aria-label": `${label}, moves and zooms` }}
          >
            {children}
          </TransformComponent>
        </div>
      </div>
    </TransformWrapper>
  );
}
