import type { Change, Fill, Mark } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { Choice, ColourField, OnOff, TextField } from "../../../shared/controls";
import { DashField } from "../../../shared/DashField";
import { DimensionLine } from "../../../shared/DimensionLine";
import { PenLine } from "../../../shared/signs";
import { FillStack } from "../FillStack";
import { usePlaced } from "./MarkingLayer";
import { lyingWords } from "./MarkList";
import { CALLED } from "./marking";

const INSIDE = ["rectangle", "polygon", "circle", "ground"];

/** A mark: what it is called, where it lies, its pen and its fills. */
export function MarkSettings({ editing, mark }: { editing: Editing; mark: Mark }) {
  const choose = useScreen((s) => s.choose);
  const placed = usePlaced(editing, mark.id!);
  const marks = editing.study.document.marks ?? [];
  const change = (label: string, changes: Change[]) => void editing.act({ do: "marks", label, changes });
  const set = (label: string, path: string[], value: unknown) =>
    change(label, [at(["marks", mark.id!, ...path], value)]);
  const regions = editing.study.document.regions ?? [];
  const pen = mark.pen ?? {};
  const index = marks.findIndex((m) => m.id === mark.id);
  const move = (by: number) => {
    const ids = marks.map((m) => m.id!);
    ids.splice(index + by, 0, ...ids.splice(index, 1));
    change(`Move ${mark.name}`, [{ path: ["marks"], do: "order", value: ids }]);
  };
  const remove = () => {
    change(`Take out ${mark.name}`, [{ path: ["marks", mark.id!], do: "drop" }]);
    choose(null);
  };
  return (
    <>
      <h2>{mark.name || CALLED[mark.kind]}</h2>
      <p className="quiet mt-1 text-xs">
        {CALLED[mark.kind]}, {placed?.called || lyingWords(mark, editing.study.document.views)}
        {placed && !placed.points.length ? "; not in this view" : ""}. In every view of the study.
      </p>
      <TextField label="Called" value={mark.name ?? ""} onChange={(v) => set("Name of a mark", ["name"], v.trim())} />
      <OnOff
        label="Drawn"
        value={mark.on ?? true}
        onChange={(v) => set(`${mark.name} ${v ? "on" : "off"}`, ["on"], v)}
      />
      {mark.kind === "ground" ? (
        <>
          {mark.points.length === 1 && (
            <DimensionLine
              label="Level"
              unit="m"
              min={-20}
              max={20}
              step={0.05}
              value={mark.points[0]![2]}
              onChange={(v) =>
                set(
                  `Ground at ${v.toFixed(2)} m`,
                  ["points"],
                  [[mark.points[0]![0], mark.points[0]![1], Math.round(v * 1000) / 1000]],
                )
              }
            />
          )}
          <DimensionLine
            label="Earth below it"
            unit="m"
            min={0.2}
            max={10}
            step={0.1}
            initial={2}
            value={mark.depth ?? 2}
            onChange={(v) => set(`Earth ${v.toFixed(1)} m deep`, ["depth"], Math.round(v * 100) / 100)}
          />
          <Choice
            label="Its lower edge"
            value={mark.edge ?? "fading"}
            options={[
              { value: "straight", label: "straight" },
              { value: "rough", label: "rough" },
              { value: "fading", label: "fading" },
            ]}
            onChange={(v) => set("Lower edge of the earth", ["edge"], v)}
          />
        </>
      ) : (
        mark.plane!.lies !== "paper" && (
          <DimensionLine
            label="Stands off"
            unit="m"
            min={0}
            max={3}
            step={0.01}
            initial={0}
            value={mark.lift ?? 0}
            onChange={(v) => set(`${v.toFixed(2)} m off`, ["lift"], Math.round(v * 1000) / 1000)}
          />
        )
      )}
      {mark.kind !== "ground" && (regions.length > 0 || mark.where) && (
        <Choice
          label="Only within"
          value={mark.where?.kind === "kept" ? mark.where.name : mark.where ? "other" : "all"}
          options={[
            { value: "all", label: "no region: all of it" },
            ...regions.map((r) => ({ value: r.name, label: r.name })),
            ...(mark.where && mark.where.kind !== "kept" ? [{ value: "other", label: "what a query says" }] : []),
          ]}
          onChange={(v) =>
            v !== "other" &&
            set("What a mark is confined to", ["where"], v === "all" ? null : { kind: "kept", name: v })
          }
        />
      )}
      <h2 className="mt-5">{mark.kind === "brush" ? "The tone" : "The pen"}</h2>
      {mark.kind === "brush" ? (
        <>
          <DimensionLine
            label="Wide"
            unit={mark.plane!.lies === "paper" ? "mm" : "m"}
            min={0.05}
            max={mark.plane!.lies === "paper" ? 80 : 8}
            step={0.05}
            value={mark.width ?? 1}
            onChange={(v) => set("Width of a brush", ["width"], Math.round(v * 1000) / 1000)}
          />
          <DimensionLine
            label="Soft"
            unit="%"
            digits={0}
            min={0}
            max={100}
            step={1}
            initial={60}
            value={(mark.softness ?? 0.6) * 100}
            onChange={(v) => set("How soft a brush is", ["softness"], Math.round(v) / 100)}
          />
        </>
      ) : (
        <>
          <div className="my-2">
            {(pen.weight ?? 0.25) > 0 && (
              <PenLine weight={pen.weight ?? 0.25} colour={pen.colour ?? "#2e2a27"} dash={pen.dash ?? []} width={210} />
            )}
          </div>
          <DimensionLine
            label="Weight"
            unit="mm"
            min={0}
            max={1.4}
            step={0.01}
            initial={0.25}
            value={pen.weight ?? 0.25}
            onChange={(v) => set(`${v.toFixed(2)} mm`, ["pen", "weight"], Math.round(v * 100) / 100)}
          />
          <DashField
            label="Dash"
            value={pen.dash ?? []}
            onChange={(dash) => set("Dash of a mark", ["pen", "dash"], dash)}
          />
        </>
      )}
      <ColourField
        label="Colour"
        value={pen.colour ?? "#2e2a27"}
        onChange={(v) => set("Colour of a mark", ["pen", "colour"], v)}
      />
      <DimensionLine
        label={mark.kind === "brush" ? "Strength" : "Opacity"}
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        initial={mark.kind === "brush" ? 35 : 100}
        value={(pen.opacity ?? 1) * 100}
        onChange={(v) => set("Opacity of a mark", ["pen", "opacity"], Math.round(v) / 100)}
      />
      {INSIDE.includes(mark.kind) && (
        <>
          <h2 className="mt-5">Its fills</h2>
          <FillStack
            editing={editing}
            fills={(mark.fills ?? []) as Fill[]}
            cut={mark.kind === "ground"}
            onChange={(fills, label) => set(label, ["fills"], fills)}
          />
        </>
      )}
      <p className="mt-4 flex gap-3 text-xs font-semibold">
        <button
          type="button"
          className="plain"
          aria-label="Lay this mark higher"
          disabled={index >= marks.length - 1}
          onClick={() => move(1)}
        >
          ↑
        </button>
        <button
          type="button"
          className="plain"
          aria-label="Lay this mark lower"
          disabled={index <= 0}
          onClick={() => move(-1)}
        >
          ↓
        </button>
        <button type="button" className="plain underline decoration-hairline underline-offset-4" onClick={remove}>
          Take out
        </button>
      </p>
    </>
  );
}
