import { useChoices } from "../../desk/study";
import { Choice, NumberField } from "../../shared/controls";
import { PAPERS } from "./directions";

/** The paper: size, orientation, scale and resolution. */
export function FrameSettings(props: {
  frame: { width?: number; height?: number; scale?: number | null; resolution?: number };
  scale: number | null;
  isPerspective: boolean;
  set: (label: string, path: string[], value: unknown) => void;
}) {
  const { frame, set } = props;
  const width = frame.width ?? 420;
  const height = frame.height ?? 297;
  const [long, short] = [Math.max(width, height), Math.min(width, height)];
  const paper = Object.entries(PAPERS).find(([, [a, b]]) => a === long && b === short)?.[0] ?? "free";
  const upright = height > width;
  const sized = (w: number, h: number) => set("Change the paper", ["frame"], { ...frame, width: w, height: h });
  const scales = useChoices()?.scales ?? [];
  return (
    <>
      <Choice
        label="Paper"
        value={paper}
        options={[...Object.keys(PAPERS).map((p) => ({ value: p, label: p })), { value: "free", label: "free size" }]}
        onChange={(p) => {
          const size = PAPERS[p];
          if (size) sized(upright ? size[1] : size[0], upright ? size[0] : size[1]);
          else sized(long + 1, short);
        }}
      />
      {paper === "free" && (
        <>
          <NumberField label="Width" unit="mm" digits={0} min={10} max={5000} value={width} onChange={(v) => sized(v, height)} />
          <NumberField label="Height" unit="mm" digits={0} min={10} max={5000} value={height} onChange={(v) => sized(width, v)} />
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
      {!props.isPerspective && (
        <Choice
          label="Scale"
          value={frame.scale ? String(frame.scale) : "fit"}
          options={[
            { value: "fit", label: props.scale ? `to fit (1:${props.scale})` : "to fit" },
            ...[...new Set([...scales, ...(frame.scale ? [frame.scale] : [])])].sort((a, b) => a - b).map((s) => ({ value: String(s), label: `1:${s}` })),
          ]}
          onChange={(v) => set(v === "fit" ? "Scale to fit" : `Scale 1:${v}`, ["frame", "scale"], v === "fit" ? null : Number(v))}
        />
      )}
      <NumberField label="Resolution" unit="dpi" digits={0} min={30} max={1200} value={frame.resolution ?? 150} onChange={(v) => set("Resolution", ["frame", "resolution"], v)} />
    </>
  );
}
