import { useState } from "react";

import { at, type Editing, type Side, useChoices } from "../../desk/study";
import { Choice, NumberField } from "../../shared/controls";

/** The paper: size, orientation, scale, resolution; a side drawn out; the drawing fitted on it. */
export function FrameSettings(props: {
  editing: Editing;
  scale: number | null;
  set: (label: string, path: string[], value: unknown) => void;
}) {
  const { editing, set } = props;
  const { frame, projection } = editing.study.document.desk.view;
  const [step, setStep] = useState(20);
  const choices = useChoices();
  const [width, height] = [frame.width, frame.height];
  const [long, short] = [Math.max(width, height), Math.min(width, height)];
  const papers = choices?.papers ?? {};
  const paper = Object.entries(papers).find(([, [a, b]]) => a === long && b === short)?.[0] ?? "free";
  const upright = height > width;
  const sized = (w: number, h: number) => set("Change the paper", ["frame"], { ...frame, width: w, height: h });
  const scales = choices?.scales ?? [];
  // A scale that both systems have is offered once, as it is written in metres.
  const offered = scales.filter(
    (s) => s.system === "metric" || !scales.some((o) => o.system === "metric" && o.scale === s.scale),
  );
  const free =
    frame.scale && !offered.some((s) => s.scale === frame.scale)
      ? [{ scale: frame.scale, label: `1:${frame.scale}` }]
      : [];
  const held = projection.kind !== "perspective" || !!projection.scale_distance;
  const written = offered.find((s) => s.scale === props.scale)?.label ?? (props.scale ? `1:${props.scale}` : "");
  return (
    <>
      <Choice
        label="Paper size"
        value={paper}
        options={[...Object.keys(papers).map((p) => ({ value: p, label: p })), { value: "free", label: "free size" }]}
        onChange={(p) => {
          const size = papers[p];
          if (size) sized(size[upright ? 1 : 0]!, size[upright ? 0 : 1]!);
          else sized(width + 1, height);
        }}
      />
      {paper === "free" && (
        <>
          <NumberField
            label="Width"
            unit="mm"
            digits={1}
            min={10}
            max={5000}
            value={width}
            onChange={(v) => sized(v, height)}
          />
          <NumberField
            label="Height"
            unit="mm"
            digits={1}
            min={10}
            max={5000}
            value={height}
            onChange={(v) => sized(width, v)}
          />
        </>
      )}
      <Choice
        label="Lies"
        value={upright ? "upright" : "across"}
        options={[
          { value: "across", label: "landscape" },
          { value: "upright", label: "portrait" },
        ]}
        onChange={(v) => (v === "upright") !== upright && sized(height, width)}
      />
      {held && (
        <Choice
          label={
            projection.kind !== "perspective"
              ? "Scale"
              : editing.study.kind.kind === "section perspective"
                ? "Scale at the cut"
                : "Scale where it looks"
          }
          value={frame.scale ? String(frame.scale) : "fit"}
          options={[
            ...(projection.kind === "perspective"
              ? editing.study.kind.kind === "section perspective"
                ? []
                : [{ value: "lens", label: "as the lens says" }]
              : [{ value: "fit", label: props.scale ? `to fit (${written})` : "to fit" }]),
            ...[...offered, ...free].map((s) => ({ value: String(s.scale), label: s.label })),
          ]}
          onChange={(v) =>
            v === "lens"
              ? set("Scale as the lens says", ["projection", "scale_distance"], null)
              : set(v === "fit" ? "Scale to fit" : `Scale 1:${v}`, ["frame", "scale"], v === "fit" ? null : Number(v))
          }
        />
      )}
      {projection.kind === "perspective" && !held && <PerspectiveScale editing={editing} offered={offered} />}
      <NumberField
        label="Resolution"
        unit="dpi"
        digits={0}
        min={30}
        max={1200}
        value={frame.resolution}
        onChange={(v) => set("Resolution", ["frame", "resolution"], v)}
      />
      <div className="row">
        <span id="draw-out">Draw the paper out by</span>
        <span className="flex items-baseline gap-1">
          <input
            aria-labelledby="draw-out"
            className="field w-14 border-transparent text-right"
            inputMode="numeric"
            value={step}
            onChange={(e) => setStep(Math.max(-1000, Math.min(1000, Number(e.target.value) || 0)))}
          />
          <span className="quiet w-7">mm</span>
        </span>
      </div>
      <div className="flex flex-wrap gap-3 pt-1 text-xs font-semibold">
        {(["left", "right", "top", "bottom"] as Side[]).map((side) => (
          <button
            key={side}
            type="button"
            className="plain underline decoration-hairline underline-offset-4"
            onClick={() => void editing.paper(side, step)}
          >
            {side}
          </button>
        ))}
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          onClick={() => void editing.paper()}
        >
          Fit the drawing
        </button>
      </div>
    </>
  );
}

/** Holds a scale on the plane through the point that a perspective looks at. */
function PerspectiveScale({ editing, offered }: { editing: Editing; offered: { scale: number; label: string }[] }) {
  const { view } = editing.study.document.desk;
  if (view.projection.kind !== "perspective") return null;
  const { eye, target } = view.projection;
  const sight = target.map((c, k) => c - eye[k]!) as [number, number, number];
  const distance = view.projection.upright ? Math.hypot(sight[0], sight[1]) : Math.hypot(...sight);
  return (
    <Choice
      label="Scale where it looks"
      value="free"
      options={[
        { value: "free", label: "as the lens says" },
        ...offered.map((s) => ({ value: String(s.scale), label: s.label })),
      ]}
      onChange={(v) =>
        v !== "free" &&
        editing.view(`Scale 1:${v} where it looks`, [
          at(["projection", "scale_distance"], distance),
          at(["frame", "scale"], Number(v)),
        ])
      }
    />
  );
}
