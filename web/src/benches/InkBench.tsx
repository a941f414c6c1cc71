import type { Parts } from "../api/client";
import { RegionFill } from "../desk/RegionCard";
import { useScreen } from "../desk/screen";
import { at, type Editing, useChoices } from "../desk/study";
import { Choice, ColourField, OnOff } from "../shared/controls";
import { DashField } from "../shared/DashField";
import { DimensionLine } from "../shared/DimensionLine";
import { PenLine } from "../shared/signs";
import { ForWhom } from "./FinishList";
import { useParts } from "./model/parts";

const RANKS = ["profile", "cut", "outline", "edge", "surface", "hidden"] as const;
type Rank = (typeof RANKS)[number];
const ABOUT: Record<Rank, [string, string]> = {
  profile: ["Profile", "Once round all that is seen of a part set, over all other lines."],
  cut: ["Cut", "The outline of every cut mass: the heaviest line of the drawing."],
  outline: ["Outline", "Against depth: where what lies behind is farther away, or nothing."],
  edge: ["Edge", "Where both faces are seen."],
  surface: ["Surface joint", "Joints and changes of material within one surface."],
  hidden: ["Hidden", "What lies behind. Off in most drawings."],
};
/** Pens by rank and poche by material, as drawn swatches. */
export function InkList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const { pens, poche = {} } = editing.study.look;
  const parts = useParts(editing.study).data;
  const switched = Object.entries(parts?.overruled ?? {}).flatMap(([n, said]) => (said.poche !== undefined || said.cut_as !== undefined ? [Number(n)] : []));
  const mine = chosen.Ink;
  return (
    <>
      <h2>Pens</h2>
      <ul className="mt-1">
        {RANKS.map((rank) => {
          const pen = pens![rank]!;
          const picked = mine?.kind === "pen" && mine.id === rank;
          return (
            <li key={rank}>
              <button type="button" className="plain row w-full" data-chosen={picked} aria-pressed={picked} onClick={() => choose({ kind: "pen", id: rank })}>
                <span>{ABOUT[rank][0]}</span>
                <span className="flex items-center gap-2">
                  <PenLine weight={pen.weight} colour={pen.colour ?? "#2e2a27"} dash={pen.dash ?? []} width={36} />
                  <span className="quiet w-8 text-right font-normal">{pen.on ? pen.weight.toFixed(2) : "off"}</span>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      <h2 className="mt-6">Poche</h2>
      <p className="quiet text-xs">Where cut bodies overlap, the upper in this list prevails.</p>
      <ul className="mt-1">
        {ordered(poche, parts).map((material) => {
          const fill = poche[material]!;
          const picked = mine?.kind === "poche" && mine.id === material;
          return (
            <li key={material}>
              <button type="button" className="plain row w-full" data-chosen={picked} aria-pressed={picked} onClick={() => choose({ kind: "poche", id: material })}>
                <span>{material}</span>
                <span className="flex items-center gap-2">
                  {!fill.on && <span className="quiet text-xs">void</span>}
                  <span className="inline-block h-4 w-9 border border-graphite" style={{ background: fill.on ? fill.colour : "transparent" }} aria-hidden />
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      {switched.length > 0 && (
        <>
          <h2 className="mt-6">Filled otherwise</h2>
          <ul className="mt-1">
            {switched.map((n) => (
              <li key={n}>
                <button type="button" className="plain row w-full" data-chosen={mine?.kind === "part" && mine.id === String(n)} onClick={() => choose({ kind: "part", id: String(n) })}>
                  <span>{parts!.name[n]}</span>
                  <span className="quiet text-xs">{[parts!.overruled[n]!.poche, parts!.overruled[n]!.cut_as].filter(Boolean).join(", ")}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}

/** Materials that have a poche, the one that prevails over all others first. */
function ordered(poche: Record<string, unknown>, parts: Parts | undefined): string[] {
  const names = Object.keys(poche);
  if (!parts) return names;
  const place = new Map(parts.cut_order.map((m, k) => [parts.materials[m]!.name, k]));
  return names.sort((a, b) => (place.get(a) ?? 1e6) - (place.get(b) ?? 1e6));
}

/** The selected pen, poche or part. */
export function InkSettings({ editing }: { editing: Editing }) {
  const { chosen } = useScreen();
  const { pens, poche } = editing.study.look;
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const mine = chosen.Ink ?? { kind: "pen" as const, id: "cut" };
  const set = (label: string, path: string[], value: unknown) => editing.look(label, [at(path, value)], everywhere, path.join("."));
  const usual = useChoices()?.pens;
  const parts = useParts(editing.study).data;
  if (mine.kind === "part" && parts) {
    const n = Number(mine.id);
    return (
      <>
        <h2>{parts.name[n]}, cut</h2>
        <p className="quiet mt-1 mb-2">How this part is filled where it is cut.</p>
        <RegionFill editing={editing} part={n} material={parts.materials[parts.material[n]!]!.name} />
      </>
    );
  }
  if (mine.kind === "poche") {
    const order = parts?.cut_order ?? [];
    const place = order.findIndex((m) => parts!.materials[m]!.name === mine.id);
    const move = (by: number) => {
      const next = [...order];
      [next[place], next[place + by]] = [next[place + by]!, next[place]!];
      void editing.model({ do: "cut_order", materials: next });
    };
    const fill = poche?.[mine.id];
    if (!fill) return <p className="quiet">Choose a pen or a poche from the list.</p>;
    return (
      <>
        <ForWhom editing={editing} bench="Ink" />
        <h2>{mine.id}, cut</h2>
        <p className="quiet mt-1 mb-2">How this material is filled where it is cut.</p>
        <OnOff label="Filled" value={fill.on ?? true} onChange={(v) => set(`${mine.id} ${v ? "filled" : "void"}`, ["poche", mine.id, "on"], v)} />
        <ColourField label="Colour" value={fill.colour ?? "#2e2a27"} onChange={(v) => set(`Poche of ${mine.id}`, ["poche", mine.id, "colour"], v)} />
        {place >= 0 && (
          <div className="mt-3 flex gap-3 text-xs font-semibold">
            <button type="button" className="line-act" disabled={place === 0} onClick={() => move(-1)}>
              Prevail over more
            </button>
            <button type="button" className="line-act" disabled={place === order.length - 1} onClick={() => move(1)}>
              Over less
            </button>
          </div>
        )}
      </>
    );
  }
  const rank = mine.id as Rank;
  const pen = pens![rank]!;
  return (
    <>
      <ForWhom editing={editing} bench="Ink" />
      <h2>{ABOUT[rank][0]}</h2>
      <p className="quiet mt-1 mb-3">{ABOUT[rank][1]}</p>
      <PenLine weight={pen.weight} colour={pen.colour ?? "#2e2a27"} dash={pen.dash ?? []} width={210} />
      {rank === "profile" && (
        <Choice
          label="Round"
          value={pens!.profile_of || "none"}
          options={[{ value: "none", label: "no part set" }, ...Object.keys(parts?.sets ?? {}).map((n) => ({ value: n, label: n }))]}
          onChange={(n) =>
            editing.look(
              n === "none" ? "No profile" : `Profile of “${n}”`,
              [at(["pens", "profile_of"], n === "none" ? "" : n), at(["pens", "profile", "on"], n !== "none")],
              everywhere,
            )
          }
        />
      )}
      <OnOff label="Drawn" value={pen.on ?? true} onChange={(v) => set(`${ABOUT[rank][0]} ${v ? "on" : "off"}`, ["pens", rank, "on"], v)} />
      <DimensionLine
        label="Weight"
        unit="mm"
        min={0.05}
        max={rank === "cut" || rank === "profile" ? 1.4 : 0.9}
        step={0.01}
        initial={usual?.[rank]?.weight}
        value={pen.weight}
        onChange={(v) => set(`${ABOUT[rank][0]} ${v.toFixed(2)} mm`, ["pens", rank, "weight"], v)}
      />
      <ColourField label="Colour" value={pen.colour ?? "#2e2a27"} onChange={(v) => set(`Colour of ${ABOUT[rank][0].toLowerCase()}`, ["pens", rank, "colour"], v)} />
      <DashField label="Dash" value={pen.dash ?? []} onChange={(dash) => set(`Dash of ${ABOUT[rank][0].toLowerCase()}`, ["pens", rank, "dash"], dash)} />
      <h2 className="mt-6">All pens</h2>
      <DimensionLine
        label="Fading with distance"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        initial={usual && (usual.fade ?? 0) * 100}
        value={(pens!.fade ?? 0.45) * 100}
        onChange={(v) => set("Fading with distance", ["pens", "fade"], v / 100)}
      />
    </>
  );
}
