import type { Parts, PenRule, PocheRule } from "../../api/client";
import { RegionFill } from "../../desk/RegionCard";
import { useScreen } from "../../desk/screen";
import { at, type Editing, useChoices } from "../../desk/study";
import { Choice, ColourField, OnOff, TextField } from "../../shared/controls";
import { DashField } from "../../shared/DashField";
import { DimensionLine } from "../../shared/DimensionLine";
import { PenLine } from "../../shared/signs";
import { ForWhom } from "../FinishList";
import { useParts } from "../model/parts";
import { useHeld } from "./held";
import { RuleList } from "./RuleList";
import { Takes } from "./Takes";

const INK = "#2e2a27";

/** Pens and poche as rules in their order, and which material prevails over which. */
export function InkList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const { pens = [], poche = [] } = editing.study.look;
  const parts = useParts(editing.study).data;
  const switched = Object.entries(parts?.overruled ?? {}).flatMap(([n, said]) => (said.poche !== undefined || said.cut_as !== undefined ? [Number(n)] : []));
  const mine = chosen.Ink;
  return (
    <>
      <h2>Pens</h2>
      <p className="quiet mb-1 text-xs">Each rule goes over those above it.</p>
      <RuleList editing={editing} room="pens" rules={pens} sign={(rule) => <PenSign rule={rule} />} fresh={{ where: { kind: "match", ranks: ["edge"] }, pen: { weight: 0.18, colour: INK, dash: [] } }} adding="Add a pen" />
      <h2 className="mt-6">Poche</h2>
      <p className="quiet mb-1 text-xs">What fills what is cut; each rule goes over those above it.</p>
      <RuleList editing={editing} room="poche" rules={poche} sign={(rule) => <FillSign rule={rule} />} fresh={{ where: { kind: "match", materials: parts?.materials.slice(0, 1).map((m) => m.name) ?? [] }, fills: [{ kind: "flat", colour: INK }] }} adding="Add a fill" />
      {parts && parts.cut_order.length > 1 && (
        <>
          <h2 className="mt-6">Where cut bodies overlap</h2>
          <p className="quiet text-xs">The upper in this list prevails.</p>
          <ul className="mt-1">
            {parts.cut_order.map((m, place) => (
              <OrderRow key={m} editing={editing} parts={parts} place={place} />
            ))}
          </ul>
        </>
      )}
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

function PenSign({ rule }: { rule: PenRule }) {
  const pen = rule.pen ?? {};
  if (pen.weight == null) {
    const times = rule.times ?? 1;
    const fades = (rule.fading?.thinner ?? 0) + (rule.fading?.paler ?? 0) > 0;
    return <span className="quiet text-xs">{fades ? "thinner, paler" : times !== 1 ? `× ${times.toFixed(2)}` : (rule.paler ?? 0) > 0 ? "paler" : ""}</span>;
  }
  return (
    <>
      <PenLine weight={pen.weight} colour={pen.colour ?? INK} dash={pen.dash ?? []} width={64} />
      <span className="quiet text-xs font-normal">{pen.weight.toFixed(2)} mm</span>
    </>
  );
}

function FillSign({ rule }: { rule: PocheRule }) {
  const fill = rule.fills?.at(-1);
  return (
    <>
      <span className="inline-block h-3 w-16 border border-graphite" style={{ background: fill?.colour ?? "transparent", opacity: fill?.opacity ?? 1 }} aria-hidden />
      {!fill && <span className="quiet text-xs font-normal">left void</span>}
    </>
  );
}

/** One material in the order in which they prevail where cut bodies overlap. */
function OrderRow({ editing, parts, place }: { editing: Editing; parts: Parts; place: number }) {
  const order = parts.cut_order;
  const name = parts.materials[order[place]!]!.name;
  const move = (by: number) => {
    const next = [...order];
    [next[place], next[place + by]] = [next[place + by]!, next[place]!];
    void editing.model({ do: "cut_order", materials: next });
  };
  return (
    <li className="row group">
      <span className="min-w-0 truncate">{name}</span>
      <span className="flex gap-1">
        <button type="button" className="plain px-1" aria-label={`${name} prevails over more`} disabled={place === 0} onClick={() => move(-1)}>
          ↑
        </button>
        <button type="button" className="plain px-1" aria-label={`${name} prevails over less`} disabled={place === order.length - 1} onClick={() => move(1)}>
          ↓
        </button>
      </span>
    </li>
  );
}

/** The selected rule or part. */
export function InkSettings({ editing }: { editing: Editing }) {
  const { chosen } = useScreen();
  const parts = useParts(editing.study).data;
  const mine = chosen.Ink ?? { kind: "pen" as const, id: "cut" };
  const { pens = [], poche = [] } = editing.study.look;
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
  const pen = mine.kind === "pen" ? pens.find((r) => r.id === mine.id) : undefined;
  const fill = mine.kind === "poche" ? poche.find((r) => r.id === mine.id) : undefined;
  if (pen) return <PenSettings key={pen.id} editing={editing} rule={pen} />;
  if (fill) return <FillSettings key={fill.id} editing={editing} rule={fill} />;
  return <p className="quiet">Choose a rule from the list.</p>;
}

/** What every rule has: its name, whether it is in force, and what can be done with it. */
function RuleHead(props: { editing: Editing; room: "pens" | "poche"; rule: PenRule | PocheRule; set: (label: string, path: string[], value: unknown) => void }) {
  const { editing, rule, room, set } = props;
  const sentence = editing.study.sentences[room]?.[rule.id!] ?? rule.id!;
  return (
    <>
      <ForWhom editing={editing} bench="Ink" />
      <h2>{sentence}</h2>
      <OnOff label="In force" value={rule.on ?? true} onChange={(v) => set(`${sentence} ${v ? "on" : "off"}`, ["on"], v)} />
      <TextField label="Called" value={rule.name ?? ""} placeholder={rule.name ? "" : "as it reads"} onChange={(v) => set("Name of a rule", ["name"], v)} />
    </>
  );
}

function useSet(editing: Editing, room: "pens" | "poche", id: string) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  return (label: string, path: string[], value: unknown) => editing.look(label, [at([room, id, ...path], value)], everywhere, [room, id, ...path].join("."));
}

function PenSettings({ editing, rule }: { editing: Editing; rule: PenRule }) {
  const set = useSet(editing, "pens", rule.id!);
  const usual = useChoices()?.pens.find((r) => r.id === rule.id);
  const pen = rule.pen ?? {};
  const gives = pen.weight != null;
  const share = (label: string, value: number, path: string[], initial?: number) => (
    <DimensionLine label={label} unit="%" digits={0} min={0} max={100} step={1} initial={initial === undefined ? undefined : initial * 100} value={value * 100} onChange={(v) => set(label, path, Math.round(v) / 100)} />
  );
  return (
    <>
      <RuleHead editing={editing} room="pens" rule={rule} set={set} />
      {gives && (
        <div className="my-2">
          <PenLine weight={pen.weight!} colour={pen.colour ?? INK} dash={pen.dash ?? []} width={210} />
        </div>
      )}
      <h2 className="mt-5">Takes hold of</h2>
      <Takes editing={editing} what={rule.round ? "round" : "lines"} where={rule.where!} onChange={(where) => set("What a pen takes hold of", ["where"], where)} />
      <h2 className="mt-5">{gives ? "The pen" : "What it changes"}</h2>
      {!rule.round && (
        <Choice
          label="It"
          value={gives ? "gives" : "changes"}
          options={[
            { value: "gives", label: "gives a pen" },
            { value: "changes", label: "changes the pen" },
          ]}
          onChange={(v) => set(v === "gives" ? "Gives a pen" : "Changes the pen", ["pen"], v === "gives" ? { weight: 0.18, colour: INK, dash: [], opacity: null } : {})}
        />
      )}
      {gives ? (
        <>
          <DimensionLine label="Weight" unit="mm" min={0.05} max={1.4} step={0.01} initial={usual?.pen?.weight ?? undefined} value={pen.weight!} onChange={(v) => set(`${v.toFixed(2)} mm`, ["pen", "weight"], v)} />
          <ColourField label="Colour" value={pen.colour ?? INK} onChange={(v) => set("Colour of a pen", ["pen", "colour"], v)} />
          <DashField label="Dash" value={pen.dash ?? []} onChange={(dash) => set("Dash of a pen", ["pen", "dash"], dash)} />
          {share("Opacity", pen.opacity ?? 1, ["pen", "opacity"], 1)}
        </>
      ) : (
        <>
          <DimensionLine label="Weight times" unit="×" min={0.1} max={3} step={0.01} initial={usual?.times ?? 1} value={rule.times ?? 1} onChange={(v) => set(`× ${v.toFixed(2)}`, ["times"], v)} />
          {share("Paler", rule.paler ?? 0, ["paler"], usual?.paler ?? 0)}
          {share("Thinner far away", rule.fading?.thinner ?? 0, ["fading", "thinner"], usual?.fading?.thinner ?? 0)}
          {share("Paler far away", rule.fading?.paler ?? 0, ["fading", "paler"], usual?.fading?.paler ?? 0)}
        </>
      )}
    </>
  );
}

function FillSettings({ editing, rule }: { editing: Editing; rule: PocheRule }) {
  const set = useSet(editing, "poche", rule.id!);
  const { show } = useHeld();
  const fill = rule.fills?.at(-1);
  const fills = (next: object[]) => set("Fill of what is cut", ["fills"], next);
  return (
    <>
      <RuleHead editing={editing} room="poche" rule={rule} set={set} />
      <h2 className="mt-5">Takes hold of</h2>
      <Takes editing={editing} what="parts" where={rule.where!} onChange={(where) => (show(null), set("What a fill takes hold of", ["where"], where))} />
      <h2 className="mt-5">The fill</h2>
      <OnOff label="Filled" value={!!fill} onChange={(v) => fills(v ? [{ kind: "flat", colour: INK }] : [])} />
      {fill && (
        <>
          <ColourField label="Colour" value={fill.colour ?? INK} onChange={(v) => fills([{ ...fill, colour: v }])} />
          <DimensionLine label="Opacity" unit="%" digits={0} min={0} max={100} step={1} initial={100} value={(fill.opacity ?? 1) * 100} onChange={(v) => fills([{ ...fill, opacity: Math.round(v) / 100 }])} />
        </>
      )}
    </>
  );
}
