import { toast } from "sonner";

import { answered, type Figure, http, type Setting } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { Choice, ColourField, NumberField, OnOff, TextField } from "../../../shared/controls";
import { DimensionLine } from "../../../shared/DimensionLine";
import { SettingField } from "../../../shared/SettingField";
import { usePictures } from "../Pictures";
import { calledBy, useFigureStock, usePlaced } from "./standing";

const DRAWN = [
  { value: "", label: "as the finish says" },
  { value: "full", label: "in full" },
  { value: "outline", label: "outline only" },
  { value: "stipple", label: "outline and stipple" },
  { value: "wash", label: "in blots of wash" },
  { value: "silhouette", label: "as a silhouette" },
  { value: "bare", label: "without leaves" },
];

/** In which ways figures of a kind are drawn. */
export const waysOf = (kind: unknown) =>
  DRAWN.filter(
    (d) => (d.value !== "bare" || kind === "plant") && (kind !== "cut-out" || !["stipple", "wash"].includes(d.value)),
  );

/** A figure: what it does or is, how it stands, is lit and drawn. */
export function FigureSettings({ editing, figure }: { editing: Editing; figure: Figure }) {
  const stock = useFigureStock();
  const choose = useScreen((s) => s.choose);
  const form = stock?.forms.find((f) => f.kind === figure.kind);
  const own = figure as Figure & Record<string, unknown>;
  const placed = usePlaced(editing, figure.id!);
  const called = calledBy(figure, stock?.items ?? []);
  const change = (label: string, field: string, value: unknown) =>
    void editing.act({
      do: "figures",
      label: `${called}: ${label}`.slice(0, 120),
      changes: [at(["figures", figure.id!, field], value)],
    });
  const stood = async (next: Figure, label: string) => {
    // What is sat or leant on is looked for anew where it stands.
    const { slug } = editing.study;
    const found = await answered(
      http.POST("/api/studies/{slug}/figures/fitted", { params: { path: { slug } }, body: { figure: next as never } }),
    ).catch((error: Error) => (toast.error(error.message), null));
    if (found)
      void editing.act({ do: "figures", label: label.slice(0, 120), changes: [at(["figures", figure.id!], found)] });
  };
  const remove = () => {
    void editing.act({
      do: "figures",
      label: `Take out ${called}`.slice(0, 120),
      changes: [{ path: ["figures", figure.id!], do: "drop" }],
    });
    choose(null);
  };
  const hidden = (editing.study.document.desk.view.figures?.hidden ?? []).includes(figure.id!);
  const settings: Setting[] = form?.settings ?? [];
  return (
    <>
      <h2>{called}</h2>
      <p className="quiet mt-1 mb-2 text-xs">
        {figure.paper
          ? `On the paper of this view, as from ${figure.paper.distance ?? 30} m.`
          : `Stands at ${own.at ? (own.at as number[])[2]!.toFixed(2) : "0.00"} m, in every view of the study.`}
        {figure.replaces?.length
          ? ` In place of ${figure.replaces.length} modelled part${figure.replaces.length > 1 ? "s" : ""}.`
          : ""}
      </p>
      <TextField
        label="Called"
        value={figure.name ?? ""}
        placeholder={called}
        onChange={(v) => change("name", "name", v.trim().slice(0, 60))}
      />
      <TextField
        label="Group"
        value={figure.group ?? ""}
        placeholder="none"
        onChange={(v) => change("group", "group", v.trim().slice(0, 60))}
      />
      <OnOff
        label="In this view"
        value={!hidden}
        onChange={(v) =>
          editing.view(`${called} ${v ? "shown" : "hidden"}`.slice(0, 110), [
            at(
              ["figures", "hidden"],
              v
                ? (editing.study.document.desk.view.figures?.hidden ?? []).filter((id) => id !== figure.id)
                : [...(editing.study.document.desk.view.figures?.hidden ?? []), figure.id!],
            ),
          ])
        }
      />
      {settings.map((setting) => (
        <SettingField
          key={`${figure.id} ${setting.field}`}
          setting={setting}
          value={own[setting.field]}
          onChange={(v) =>
            setting.field === "pose" || (setting.field === "turn" && figure.kind === "person")
              ? void stood({ ...figure, [setting.field]: v } as Figure, `${called}: ${setting.title.toLowerCase()}`)
              : change(setting.title.toLowerCase(), setting.field, v)
          }
        />
      ))}
      {figure.kind === "cut-out" && <PicturesOf own={own} change={change} />}
      <NumberField
        label="Height"
        unit="m"
        value={(own.height as number | null) ?? placed?.tall ?? 0}
        onChange={(v) => change(v ? `${v.toFixed(2)} m tall` : "usual height", "height", v > 0 ? v : null)}
      />
      {!figure.paper && (
        <NumberField
          label="Raised to"
          unit="m"
          value={(own.at as number[])[2]!}
          onChange={(v) => change(`at ${v.toFixed(2)} m`, "at", [(own.at as number[])[0], (own.at as number[])[1], v])}
        />
      )}
      {figure.paper && (
        <DimensionLine
          label="As from"
          unit="m"
          min={2}
          max={200}
          step={1}
          value={figure.paper.distance ?? 30}
          onChange={(v) => change(`from ${v.toFixed(0)} m`, "paper", { ...figure.paper, distance: v })}
        />
      )}
      <h2 className="mt-4">How it is drawn</h2>
      <Choice
        label="Drawn"
        value={(figure.drawn as string | null) ?? ""}
        options={waysOf(figure.kind)}
        onChange={(v) => change(DRAWN.find((d) => d.value === v)!.label, "drawn", v || null)}
      />
      <OnOff
        label="In one hue"
        value={!!figure.hue}
        onChange={(v) => change(v ? "in one hue" : "in its colours", "hue", v ? "#a8553c" : null)}
      />
      {figure.hue && <ColourField label="Hue" value={figure.hue} onChange={(v) => change("hue", "hue", v)} />}
      <DimensionLine
        label="Line weight"
        unit="mm"
        min={0}
        max={0.6}
        step={0.01}
        initial={0}
        value={figure.weight ?? 0}
        onChange={(v) =>
          change(
            v ? `lines of ${v.toFixed(2)} mm` : "lines as the finish says",
            "weight",
            v >= 0.02 ? Math.round(v * 100) / 100 : null,
          )
        }
      />
      <p className="mt-4">
        <button type="button" className="line-act text-xs" onClick={remove}>
          Take it out
        </button>
      </p>
    </>
  );
}

/** The pictures that a cut-out shows: seen from ahead, and others from above and in axonometrics where there are any. */
function PicturesOf({
  own,
  change,
}: {
  own: Record<string, unknown>;
  change: (label: string, field: string, value: unknown) => void;
}) {
  const pictures = usePictures() ?? [];
  const options = pictures.filter((p) => !p.tall).map((p) => ({ value: p.digest, label: p.name }));
  return (
    <>
      {["picture", "above", "slanting"].map((field) => {
        const label = { picture: "Its picture", above: "From above", slanting: "In axonometrics" }[field]!;
        const now = String(own[field] ?? "");
        const others = field === "picture" ? [] : [{ value: "", label: "the same" }];
        const lost = now && !options.some((o) => o.value === now) ? [{ value: now, label: "not in the stock" }] : [];
        return (
          <Choice
            key={field}
            label={label}
            value={now}
            options={[...others, ...lost, ...options]}
            onChange={(v) => change(label.toLowerCase(), field, v)}
          />
        );
      })}
    </>
  );
}
