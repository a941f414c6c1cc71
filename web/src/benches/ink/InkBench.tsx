import type { BuildUpRule, Parts, PenRule, PocheRule, SurfaceRule } from "../../api/client";
import { RegionFill } from "../../desk/RegionCard";
import { useScreen } from "../../desk/screen";
import { at, type Editing, useChoices } from "../../desk/study";
import { Choice, ColourField, OnOff, TextField } from "../../shared/controls";
import { DashField } from "../../shared/DashField";
import { DimensionLine } from "../../shared/DimensionLine";
import { PenLine } from "../../shared/signs";
import { ForWhom } from "../FinishList";
import { useParts } from "../model/parts";
import { FillSwatch, HandSample } from "../../shared/Swatch";
import { BuildUpSettings, BuiltFields } from "./construction/BuildUpSettings";
import { ConstructionList } from "./construction/ConstructionList";
import { FillStack } from "./FillStack";
import { paperOf, scaleOf } from "./fills";
import { AllWeights, Darkest, HandSettings } from "./HandSettings";
import { useHeld } from "./held";
import { useOutlining } from "./outlining";
import { MarkList } from "./marks/MarkList";
import { MarkSettings } from "./marks/MarkSettings";
import { RuleList } from "./RuleList";
import { Takes } from "./Takes";

const INK = "#2e2a27";
type Room = "pens" | "poche" | "surfaces" | "construction";
const CAPS = [
  { value: "usual", label: "round" },
  { value: "butt", label: "blunt" },
  { value: "square", label: "square" },
] as const;

/** Pens and poche as rules in their order, and which material prevails over which. */
export function InkList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const { pens = [], poche = [], surfaces = [], hand } = editing.study.look;
  const parts = useParts(editing.study).data;
  const switched = Object.entries(parts?.overruled ?? {}).flatMap(([n, said]) =>
    said.poche !== undefined || said.cut_as !== undefined ? [Number(n)] : [],
  );
  const mine = chosen.Ink;
  return (
    <>
      <h2>The hand</h2>
      <div className="row" data-chosen={mine?.kind === "hand"}>
        <button
          type="button"
          className="plain py-1"
          aria-pressed={mine?.kind === "hand"}
          aria-label="The hand that draws"
          onClick={() => choose({ kind: "hand", id: "hand" })}
        >
          <HandSample hand={hand ?? {}} weight={0.3} width={176} height={46} />
        </button>
      </div>
      <AllWeights editing={editing} />
      <h2 className="mt-6">Pens</h2>
      <p className="quiet mb-1 text-xs">Each rule goes over those above it.</p>
      <RuleList
        editing={editing}
        room="pens"
        rules={pens}
        sign={(rule) => <PenSign rule={rule} />}
        fresh={{ where: { kind: "match", ranks: ["edge"] }, pen: { weight: 0.18, colour: INK, dash: [] } }}
        adding="Add a pen"
      />
      <h2 className="mt-6">What is seen</h2>
      <p className="quiet mb-1 text-xs">
        What is laid onto faces, sky and ground beyond; each rule in the place of those above it, or over them.
      </p>
      <RuleList
        editing={editing}
        room="surfaces"
        rules={surfaces}
        sign={(rule) => <FillSign editing={editing} rule={rule} />}
        fresh={{
          where: { kind: "match", light: ["shadow"] },
          over: true,
          fills: [{ kind: "hatch", pattern: "parallel", spacing: 0.8, angle: 45, weight: 0.11, opacity: 0.8 }],
        }}
        adding="Add a hatch"
      />
      <Darkest editing={editing} />
      <h2 className="mt-6">Poche</h2>
      <p className="quiet mb-1 text-xs">What fills what is cut; each rule goes over those above it.</p>
      <RuleList
        editing={editing}
        room="poche"
        rules={poche}
        sign={(rule) => <FillSign editing={editing} rule={rule} />}
        fresh={{
          where: { kind: "match", materials: parts?.materials.slice(0, 1).map((m) => m.name) ?? [] },
          fills: [{ kind: "flat", colour: INK }],
        }}
        adding="Add a fill"
      />
      <ConstructionList editing={editing} />
      <MarkList editing={editing} />
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
                <button
                  type="button"
                  className="plain row w-full"
                  data-chosen={mine?.kind === "part" && mine.id === String(n)}
                  onClick={() => choose({ kind: "part", id: String(n) })}
                >
                  <span>{parts!.name[n]}</span>
                  <span className="quiet text-xs">
                    {[parts!.overruled[n]!.poche, parts!.overruled[n]!.cut_as].filter(Boolean).join(", ")}
                  </span>
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
    return (
      <span className="quiet text-xs">
        {fades ? "thinner, paler" : times !== 1 ? `× ${times.toFixed(2)}` : (rule.paler ?? 0) > 0 ? "paler" : ""}
      </span>
    );
  }
  return (
    <>
      <PenLine weight={pen.weight} colour={pen.colour ?? INK} dash={pen.dash ?? []} width={64} />
      <span className="quiet text-xs font-normal">{pen.weight.toFixed(2)} mm</span>
    </>
  );
}

function FillSign({ editing, rule }: { editing: Editing; rule: PocheRule | SurfaceRule }) {
  const fills = rule.fills ?? [];
  const over = "over" in rule && rule.over;
  return (
    <>
      {fills.slice(-2).map((fill, k) => (
        <FillSwatch
          key={k}
          fill={fill}
          scale={scaleOf(editing.study)}
          width={58}
          height={18}
          paper={paperOf(editing.study)}
        />
      ))}
      {fills.length === 0 && <span className="quiet text-xs font-normal">left void</span>}
      {over && <span className="quiet text-xs font-normal">over it</span>}
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
        <button
          type="button"
          className="plain px-1"
          aria-label={`${name} prevails over more`}
          disabled={place === 0}
          onClick={() => move(-1)}
        >
          ↑
        </button>
        <button
          type="button"
          className="plain px-1"
          aria-label={`${name} prevails over less`}
          disabled={place === order.length - 1}
          onClick={() => move(1)}
        >
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
  const { pens = [], poche = [], surfaces = [] } = editing.study.look;
  if (mine.kind === "hand") return <HandSettings editing={editing} />;
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
  const built =
    mine.kind === "construction" ? (editing.study.look.construction ?? []).find((r) => r.id === mine.id) : undefined;
  const buildUp =
    mine.kind === "build-up" ? (editing.study.look.build_ups ?? []).find((b) => b.id === mine.id) : undefined;
  const mark = mine.kind === "mark" ? (editing.study.document.marks ?? []).find((m) => m.id === mine.id) : undefined;
  if (mark) return <MarkSettings key={mark.id} editing={editing} mark={mark} />;
  if (built) return <BuiltSettings key={built.id} editing={editing} rule={built} />;
  if (buildUp) return <BuildUpSettings key={buildUp.id} editing={editing} buildUp={buildUp} />;
  const surface = mine.kind === "surface" ? surfaces.find((r) => r.id === mine.id) : undefined;
  if (fill) return <FillSettings key={fill.id} editing={editing} room="poche" rule={fill} />;
  if (surface) return <FillSettings key={surface.id} editing={editing} room="surfaces" rule={surface} />;
  return <p className="quiet">Choose a rule from the list.</p>;
}

/** What every rule has: its name, whether it is in force, and what can be done with it. */
function RuleHead(props: {
  editing: Editing;
  room: Room;
  rule: PenRule | PocheRule | SurfaceRule | BuildUpRule;
  set: (label: string, path: string[], value: unknown) => void;
}) {
  const { editing, rule, room, set } = props;
  const sentence = editing.study.sentences[room]?.[rule.id!] ?? rule.id!;
  return (
    <>
      <ForWhom editing={editing} bench="Ink" />
      <h2>{sentence}</h2>
      <OnOff
        label="In force"
        value={rule.on ?? true}
        onChange={(v) => set(`${sentence} ${v ? "on" : "off"}`, ["on"], v)}
      />
      <TextField
        label="Called"
        value={rule.name ?? ""}
        placeholder={rule.name ? "" : "as it reads"}
        onChange={(v) => set("Name of a rule", ["name"], v)}
      />
    </>
  );
}

function useSet(editing: Editing, room: Room, id: string) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  return (label: string, path: string[], value: unknown) =>
    editing.look(label, [at([room, id, ...path], value)], everywhere, [room, id, ...path].join("."));
}

function PenSettings({ editing, rule }: { editing: Editing; rule: PenRule }) {
  const set = useSet(editing, "pens", rule.id!);
  const usual = useChoices()?.pens.find((r) => r.id === rule.id);
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const begin = useOutlining((s) => s.begin);
  const drawing = useOutlining((s) => s.corners !== null);
  const frame = editing.study.document.desk.view.frame;
  const middle = [
    (frame?.width ?? 420) / 2 + (frame?.shift?.[0] ?? 0),
    (frame?.height ?? 297) / 2 + (frame?.shift?.[1] ?? 0),
  ] as const;
  const pen = rule.pen ?? {};
  const along = rule.along ?? "lines";
  const gives = pen.weight != null;
  const share = (label: string, value: number, path: string[], initial?: number) => (
    <DimensionLine
      label={label}
      unit="%"
      digits={0}
      min={0}
      max={100}
      step={1}
      initial={initial === undefined ? undefined : initial * 100}
      value={value * 100}
      onChange={(v) => set(label, path, Math.round(v) / 100)}
    />
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
      <Choice
        label="It draws"
        value={along}
        options={[
          { value: "lines", label: "lines" },
          { value: "subject", label: "round what is seen" },
          { value: "cut", label: "round what is cut" },
          { value: "base", label: "where it stands" },
        ]}
        onChange={(v) =>
          editing.look(
            "What a pen draws",
            [
              at(["pens", rule.id!, "along"], v),
              ...(v === "lines" ? [] : [at(["pens", rule.id!, "where"], { kind: "match" })]),
            ],
            everywhere,
          )
        }
      />
      <Takes
        editing={editing}
        what={along === "lines" ? "lines" : "round"}
        where={rule.where!}
        onChange={(where) => set("What a pen takes hold of", ["where"], where)}
      />
      {along === "base" && (
        <OnOff
          label="Run on to the frame"
          value={rule.run_on ?? false}
          onChange={(v) => set("Base line run on", ["run_on"], v)}
        />
      )}
      <h2 className="mt-5">{gives ? "The pen" : "What it changes"}</h2>
      {along === "lines" && (
        <Choice
          label="It"
          value={gives ? "gives" : "changes"}
          options={[
            { value: "gives", label: "gives a pen" },
            { value: "changes", label: "changes the pen" },
          ]}
          onChange={(v) =>
            set(
              v === "gives" ? "Gives a pen" : "Changes the pen",
              ["pen"],
              v === "gives" ? { weight: 0.18, colour: INK, dash: [], opacity: null } : {},
            )
          }
        />
      )}
      {gives ? (
        <>
          <DimensionLine
            label="Weight"
            unit="mm"
            min={0.05}
            max={1.4}
            step={0.01}
            initial={usual?.pen?.weight ?? undefined}
            value={pen.weight!}
            onChange={(v) => set(`${v.toFixed(2)} mm`, ["pen", "weight"], v)}
          />
          <ColourField
            label="Colour"
            value={pen.colour ?? INK}
            onChange={(v) => set("Colour of a pen", ["pen", "colour"], v)}
          />
          <DashField
            label="Dash"
            value={pen.dash ?? []}
            onChange={(dash) => set("Dash of a pen", ["pen", "dash"], dash)}
          />
          {share("Opacity", pen.opacity ?? 1, ["pen", "opacity"], 1)}
          <Choice
            label="Ends"
            value={pen.cap ?? "usual"}
            options={CAPS}
            onChange={(v) => set("Ends of a pen", ["pen", "cap"], v === "usual" ? null : v)}
          />
        </>
      ) : (
        <>
          <DimensionLine
            label="Weight times"
            unit="×"
            min={0.1}
            max={3}
            step={0.01}
            initial={usual?.times ?? 1}
            value={rule.times ?? 1}
            onChange={(v) => set(`× ${v.toFixed(2)}`, ["times"], v)}
          />
          {share("Paler", rule.paler ?? 0, ["paler"], usual?.paler ?? 0)}
          {share("Thinner far away", rule.fading?.thinner ?? 0, ["fading", "thinner"], usual?.fading?.thinner ?? 0)}
          {share("Paler far away", rule.fading?.paler ?? 0, ["fading", "paler"], usual?.fading?.paler ?? 0)}
        </>
      )}
      {along === "lines" && (
        <>
          {share("Lost in light, found in shade", rule.light ?? 0, ["light"], usual?.light ?? 0)}
          <Choice
            label="It ends"
            value={!rule.away ? "nowhere" : rule.away.of ? "away" : "within"}
            options={[
              { value: "nowhere", label: "nowhere" },
              { value: "away", label: "away from the subject" },
              { value: "within", label: "in an outline drawn …" },
            ]}
            onChange={(v) => {
              const reach = rule.away?.reach ?? (v === "within" ? 12 : 40);
              if (v === "nowhere") set("Lines do not end", ["away"], null);
              else if (v === "away")
                set("Lines end away from the subject", ["away"], {
                  of: { kind: "match", roles: ["structure", "envelope", "glass", "subject"] },
                  reach,
                });
              else
                begin((corners) =>
                  set("Lines end in an outline", ["away"], {
                    outline: corners.map(([x, y]) => [
                      Math.round((x - middle[0]) * 100) / 100,
                      Math.round((y - middle[1]) * 100) / 100,
                    ]),
                    reach,
                  }),
                );
            }}
          />
          {drawing && (
            <p className="quiet text-xs">Click corners on the drawing; Enter closes the outline, Esc leaves off.</p>
          )}
          {rule.away && (
            <DimensionLine
              label="Over"
              unit="mm"
              digits={0}
              min={0}
              max={200}
              step={1}
              initial={40}
              value={rule.away.reach ?? 40}
              onChange={(v) => set("How softly lines end", ["away", "reach"], Math.round(v))}
            />
          )}
          <DimensionLine
            label="Not between layers thinner than"
            unit="mm"
            min={0}
            max={4}
            step={0.05}
            initial={0}
            value={rule.least ?? 0}
            onChange={(v) => set(`Layers from ${v.toFixed(2)} mm`, ["least"], v)}
          />
        </>
      )}
      <OnOff
        label="With a ruler"
        value={rule.hand?.waver === 0}
        onChange={(v) =>
          set(
            v ? "Drawn with a ruler" : "Drawn by the hand",
            ["hand"],
            v ? { waver: 0, overrun: 0, breaks: 0, pressure: 0, doubled: 0, mismatch: 0 } : {},
          )
        }
      />
    </>
  );
}

function BuiltSettings({ editing, rule }: { editing: Editing; rule: BuildUpRule }) {
  const set = useSet(editing, "construction", rule.id!);
  const { show } = useHeld();
  const choose = useScreen((s) => s.choose);
  const known = editing.study.look.build_ups ?? [];
  const found = known.find((b) => b.id === rule.build_up);
  return (
    <>
      <RuleHead editing={editing} room="construction" rule={rule} set={set} />
      <h2 className="mt-5">Takes hold of</h2>
      <Takes
        editing={editing}
        what="parts"
        where={rule.where!}
        onChange={(where) => (show(null), set("What is built", ["where"], where))}
      />
      <h2 className="mt-5">The layers</h2>
      <BuiltFields rule={rule} known={known} set={set} />
      {found && (
        <button
          type="button"
          className="plain mt-2 text-xs font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => choose({ kind: "build-up", id: found.id! })}
        >
          Change “{found.name}” …
        </button>
      )}
    </>
  );
}

function FillSettings({
  editing,
  room,
  rule,
}: {
  editing: Editing;
  room: "poche" | "surfaces";
  rule: PocheRule | SurfaceRule;
}) {
  const set = useSet(editing, room, rule.id!);
  const { show } = useHeld();
  const cut = room === "poche";
  return (
    <>
      <RuleHead editing={editing} room={room} rule={rule} set={set} />
      <h2 className="mt-5">Takes hold of</h2>
      <Takes
        editing={editing}
        what={cut ? "parts" : "seen"}
        where={rule.where!}
        onChange={(where) => (show(null), set("What a fill takes hold of", ["where"], where))}
      />
      {!cut && (
        <OnOff
          label="Over what lies there"
          value={(rule as SurfaceRule).over ?? false}
          onChange={(v) => set(v ? "Over what lies there" : "In its place", ["over"], v)}
        />
      )}
      <h2 className="mt-5">The fills</h2>
      <FillStack
        editing={editing}
        fills={rule.fills ?? []}
        cut={cut}
        onChange={(fills, label) => set(label, ["fills"], fills)}
      />
    </>
  );
}
