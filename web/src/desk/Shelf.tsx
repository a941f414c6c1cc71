import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import {
  arrayMove,
  horizontalListSortingStrategy,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { useEffect, useRef, useState } from "react";

import type { Desk, Trace } from "../api/client";
import { usePicture } from "../shared/picture";
import { StateMark } from "../shared/signs";
import { useScreen } from "./screen";
import { useSending } from "./edits";
import { isOpen } from "../shared/jobs";
import type { Editing } from "./study";

/** The sheets of tracing paper that make the picture, from the paper at the left to the top sheet at the right. */
export function Shelf({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const traces = editing.study.look.traces!;
  const { everywhere, opened } = useScreen();
  const places = shelved(traces, opened);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      keyboardCodes: { start: ["KeyM"], end: ["KeyM", "Enter"], cancel: ["Escape"] },
    }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const from = places.findIndex((p) => p.id === active.id);
    const to = places.findIndex((p) => p.id === over.id);
    const order = arrayMove(places, from, to).flatMap((p) => p.traces.map((t) => t.id));
    editing.look(`Move ${places[from]!.name}`, [{ path: ["traces"], do: "order", value: order }], everywhere.Collage);
  };
  return (
    <section
      aria-label="Trace shelf"
      className="relative h-[128px] shrink-0 border-t border-hairline bg-desk px-5 pt-3"
    >
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={drop}
        accessibility={{
          screenReaderInstructions: {
            draggable:
              "Press M to take this trace up, the arrow keys to move it, M to lay it down, Escape to leave it.",
          },
        }}
      >
        <SortableContext items={places.map((p) => p.id)} strategy={horizontalListSortingStrategy}>
          <ol className="flex h-full items-start">
            {places.map((place, index) => (
              <Sheet key={place.id} place={place} index={index} count={places.length} editing={editing} desk={desk} />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
    </section>
  );
}

/** A place on the shelf: one trace, or a bundle of them that lies closed under its name. */
type Place = { id: string; name: string; traces: Trace[] };

/** What lies where on the shelf: traces that follow each other under one name are one place, until it is opened. */
function shelved(traces: Trace[], opened: string[]): Place[] {
  const places: Place[] = [];
  for (const trace of traces) {
    const name = trace.bundle ?? "";
    const before = places[places.length - 1];
    if (name && !opened.includes(name) && before?.id.startsWith("bundle ") && before.name === name)
      before.traces.push(trace);
    else if (name && !opened.includes(name)) places.push({ id: `bundle ${name} ${trace.id}`, name, traces: [trace] });
    else places.push({ id: trace.id, name: trace.name, traces: [trace] });
  }
  return places;
}

function Sheet({
  place,
  index,
  count,
  editing,
  desk,
}: {
  place: Place;
  index: number;
  count: number;
  editing: Editing;
  desk: Desk | undefined;
}) {
  const { chosen, bench, go, set, without, opened } = useScreen();
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: place.id });
  // Of a bundle the sheet on top is seen.
  const trace = place.traces[place.traces.length - 1]!;
  const bundled = place.id !== trace.id;
  const held = place.traces.map((t) => t.id).join(",");
  const hold = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const mine =
    chosen.Collage?.kind === "trace" && place.traces.some((t) => t.id === chosen.Collage!.id) && bench === "Collage";
  const { study } = editing;
  const { sending } = useSending();
  // What is said of another state of the study than this one is said of the pictures before.
  const known = desk?.revision === study.revision && !sending ? desk.traces.find((t) => t.id === trace.id) : undefined;
  const [wanted, setWanted] = useState<string | null>(null);
  const ready =
    known?.fresh && desk?.fresh ? `/api/studies/${study.slug}/traces/${trace.id}/picture?key=${known.picture}` : null;
  useEffect(() => {
    // A drag ends before its picture is asked for.
    if (!ready) return;
    const later = setTimeout(() => setWanted(ready), 600);
    return () => clearTimeout(later);
  }, [ready]);
  const { src: picture, behind } = usePicture(wanted);
  const fresh = known?.fresh && wanted === ready && !behind;
  const state = fresh ? "fresh" : isOpen(desk?.job) || (known?.fresh && ready) ? "computing" : "stale";

  const choose = () => {
    go("Collage");
    if (bundled) set({ opened: [...opened, place.name] });
    useScreen.setState((s) => ({ chosen: { ...s.chosen, Collage: { kind: "trace", id: trace.id } } }));
  };
  const letGo = () => {
    clearTimeout(hold.current);
    if (useScreen.getState().without) set({ without: "" });
  };
  const tilt = ((index * 37) % 5) - 2;
  return (
    <li
      ref={setNodeRef}
      style={{
        transform: CSS.Translate.toString(transform),
        transition,
        zIndex: isDragging ? 40 : mine ? 30 : index,
        width: `calc((100% - 196px) / ${Math.max(count - 1, 1)})`,
        maxWidth: 168,
      }}
      className="relative min-w-2 shrink transition-[width] duration-150 hover:!w-[150px] hover:shrink-0 has-[:focus-visible]:!w-[150px] has-[:focus-visible]:shrink-0"
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-pressed={mine}
        aria-roledescription="trace"
        aria-label={
          bundled
            ? `${place.name}, ${state}, a bundle of ${place.traces.length}`
            : `${trace.name}, ${state}${trace.on ? "" : ", off"}${known?.remarks.length ? `. ${known.remarks[0]}` : ""}`
        }
        title={
          bundled
            ? "Press to open the bundle · hold to see the drawing without it"
            : `${trace.name} · press to select · hold to see the drawing without it · drag, or M and arrows, to move it`
        }
        onClick={choose}
        onPointerDown={(e) => {
          listeners?.onPointerDown?.(e);
          clearTimeout(hold.current);
          hold.current = setTimeout(() => set({ without: held }), 380);
        }}
        onPointerUp={letGo}
        onPointerLeave={letGo}
        onPointerMove={(e) => (Math.abs(e.movementX) > 3 ? letGo() : undefined)}
        onKeyDown={(e) => {
          listeners?.onKeyDown?.(e);
          if (e.key === "w" && !e.repeat) set({ without: held });
        }}
        onKeyUp={letGo}
        className="plain group block w-[168px] transition-transform duration-150 hover:-translate-y-2 focus-visible:-translate-y-2"
        style={{ translate: mine ? "0 -8px" : undefined }}
      >
        <span
          className={`block h-[98px] border ${count > 12 ? "bg-sheet" : "bg-sheet/85"} p-1.5 ${mine ? "border-2 border-sanguine" : "border-[#c3b69f]"}`}
          style={{ transform: `skewX(-12deg) rotate(${tilt * 0.25}deg)`, opacity: trace.on ? 1 : 0.55 }}
        >
          <span className="block h-[62px] overflow-hidden">
            {picture && (
              <img
                src={picture}
                alt=""
                className="h-full w-full object-cover"
                draggable={false}
                style={{ opacity: trace.on ? 0.94 : 0.35 }}
              />
            )}
          </span>
          <span
            className="flex items-center gap-1.5 pt-1.5 text-xs font-semibold"
            style={{ transform: "skewX(12deg)" }}
          >
            <StateMark state={state} />
            {!!known?.remarks.length && (
              <span className="inline-block h-2 w-2 shrink-0 bg-ochre-mark" title={known.remarks.join(" ")} />
            )}
            <span className="truncate">{bundled ? `${place.name} · ${place.traces.length}` : trace.name}</span>
            <span className="font-normal text-soft">{!trace.on ? "off" : without === held ? "held away" : ""}</span>
          </span>
        </span>
      </button>
    </li>
  );
}
