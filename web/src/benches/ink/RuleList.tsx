import { type ReactNode, useEffect } from "react";

import { useScreen } from "../../desk/screen";
import { at, type Editing } from "../../desk/study";
import { OnOff } from "../../shared/controls";
import { useHeld } from "./held";

type Rule = { id?: string; on?: boolean };

/** Rules in their order, as sentences: each chosen, switched off, moved, doubled or taken out; resting on one shows what it takes hold of. */
export function RuleList<R extends Rule>(props: {
  editing: Editing;
  room: "pens" | "poche" | "surfaces" | "construction";
  rules: R[];
  sign: (rule: R) => ReactNode;
  /** What a rule that is added says at first. */
  fresh: object;
  adding: string;
}) {
  const { editing, room, rules } = props;
  const { chosen, choose, everywhere } = useScreen();
  const { show } = useHeld();
  const kind = ({ pens: "pen", poche: "poche", surfaces: "surface", construction: "construction" } as const)[room];
  const mine = chosen.Ink?.kind === kind ? chosen.Ink.id : null;
  const said = (rule: R) => editing.study.sentences[room]?.[rule.id!] ?? rule.id!;
  useEffect(() => () => show(null), [show]);

  const order = (ids: string[], label: string) =>
    editing.look(label, [{ path: [room], do: "order", value: ids }], everywhere.Ink);
  const move = (index: number, by: number) => {
    const ids = rules.map((r) => r.id!);
    const [taken] = ids.splice(index, 1);
    ids.splice(index + by, 0, taken!);
    order(ids, `Move “${said(rules[index]!)}”`);
  };
  const add = (rule: object, label: string, after: number) => {
    const taken = new Set(rules.map((r) => r.id));
    const id = Array.from({ length: rules.length + 1 }, (_, k) => `rule-${k + 1}`).find((name) => !taken.has(name))!;
    const ids = rules.map((r) => r.id!);
    ids.splice(after + 1, 0, id);
    editing.look(label, [at([room, id], { ...rule, id }), { path: [room], do: "order", value: ids }], everywhere.Ink);
    choose({ kind, id });
  };
  const remove = (index: number) => {
    editing.look(`Remove “${said(rules[index]!)}”`, [{ path: [room, rules[index]!.id!], do: "drop" }], everywhere.Ink);
    const next = rules[index + 1] ?? rules[index - 1];
    choose(next ? { kind, id: next.id! } : null);
    show(null);
  };
  return (
    <>
      <ol
        aria-label={
          {
            pens: "Rules of pens",
            poche: "Rules of poche",
            surfaces: "Rules of what is seen",
            construction: "Rules of what is built",
          }[room]
        }
      >
        {rules.map((rule, index) => {
          const picked = mine === rule.id;
          const rest = () => show({ room, id: rule.id! });
          return (
            <li
              key={rule.id}
              onPointerEnter={rest}
              onPointerLeave={() => show(null)}
              onFocus={rest}
              onBlur={() => show(null)}
            >
              <div className="row" data-chosen={picked}>
                <button
                  type="button"
                  className={`plain min-w-0 flex-1 py-1 text-left leading-tight ${rule.on === false ? "quiet" : ""}`}
                  aria-pressed={picked}
                  onClick={() => choose({ kind, id: rule.id! })}
                >
                  <span className="block">{said(rule)}</span>
                  <span className="mt-0.5 flex items-center gap-2">{props.sign(rule)}</span>
                </button>
                <OnOff
                  bare
                  label={`${said(rule)}, on or off`}
                  value={rule.on ?? true}
                  onChange={(v) =>
                    editing.look(`${said(rule)} ${v ? "on" : "off"}`, [at([room, rule.id!, "on"], v)], everywhere.Ink)
                  }
                />
              </div>
              {picked && (
                <div className="flex gap-3 pb-1 text-xs font-semibold">
                  <button
                    type="button"
                    className="plain"
                    aria-label={`Move “${said(rule)}” up`}
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    ↑
                  </button>
                  <button
                    type="button"
                    className="plain"
                    aria-label={`Move “${said(rule)}” down`}
                    disabled={index === rules.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    ↓
                  </button>
                  <button
                    type="button"
                    className="plain underline decoration-hairline underline-offset-4"
                    onClick={() => add({ ...rule }, `Double “${said(rule)}”`, index)}
                  >
                    Double
                  </button>
                  <button
                    type="button"
                    className="plain underline decoration-hairline underline-offset-4"
                    onClick={() => remove(index)}
                  >
                    Take out
                  </button>
                </div>
              )}
            </li>
          );
        })}
      </ol>
      <button
        type="button"
        className="plain mt-1 text-xs font-semibold underline decoration-hairline underline-offset-4"
        onClick={() => add(props.fresh, props.adding, rules.length - 1)}
      >
        {props.adding}
      </button>
    </>
  );
}
