import { useState } from "react";

import type { Parts } from "../../api/client";
import { at, type Editing } from "../../desk/study";
import { useChoice } from "./choice";

/** Saved choices of visible parts; views and traces go by them. */
export function SetList({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { chosen, choose } = useChoice();
  const [name, setName] = useState("");
  const view = editing.study.document.desk.view;
  const used = view.parts?.set ?? "";
  const hidden = new Set(parts.hidden);
  const shown = parts.name.map((_, n) => n).filter((n) => !hidden.has(n) && !parts.absent.includes(n));
  const use = (set: string) => editing.view(set ? `Show only “${set}”` : "Show all parts", [at(["parts", "set"], set)]);
  const keep = async (numbers: number[]) => {
    if (name.trim() && numbers.length && (await editing.model({ do: "keep_set", name: name.trim(), parts: numbers })))
      setName("");
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      {Object.keys(parts.sets).length === 0 && (
        <p className="quiet py-2">
          No part set yet. Hide what a drawing should not show, and keep the rest under a name.
        </p>
      )}
      <ul>
        {Object.entries(parts.sets).map(([set, numbers]) => (
          <li key={set} className="border-b border-hairline py-1.5">
            <div className="flex items-baseline justify-between gap-2">
              <button
                type="button"
                className="plain min-w-0 flex-1 truncate font-semibold"
                title="Choose its parts"
                onClick={() => choose(numbers, "only")}
              >
                {set}
              </button>
              <span className="quiet text-xs">{numbers.length.toLocaleString("en")}</span>
            </div>
            <div className="flex flex-wrap gap-x-3 text-xs">
              <button
                type="button"
                className={`plain ${used === set ? "font-semibold text-moss-ink" : "quiet"}`}
                aria-pressed={used === set}
                onClick={() => use(used === set ? "" : set)}
              >
                {used === set ? "✓ in the view" : "use in the view"}
              </button>
              <button
                type="button"
                className="plain quiet"
                onClick={() => void editing.model({ do: "isolate", parts: numbers })}
              >
                isolate
              </button>
              <button
                type="button"
                className="plain quiet"
                aria-label={`Remove part set ${set}`}
                onClick={() => void editing.model({ do: "remove_set", name: set })}
              >
                remove
              </button>
            </div>
          </li>
        ))}
      </ul>
      <div className="mt-4">
        <label className="label" htmlFor="set-name">
          New part set
        </label>
        <input
          id="set-name"
          className="field w-full"
          placeholder="shell only"
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <div className="mt-2 flex flex-wrap gap-1.5 text-xs">
          <button
            type="button"
            className="line-act"
            disabled={!name.trim() || !shown.length}
            onClick={() => void keep(shown)}
          >
            Keep the {shown.length.toLocaleString("en")} shown
          </button>
          <button
            type="button"
            className="line-act"
            disabled={!name.trim() || !chosen.size}
            onClick={() => void keep([...chosen])}
          >
            Keep the {chosen.size.toLocaleString("en")} chosen
          </button>
        </div>
      </div>
      <p className="quiet mt-4 text-xs">
        Hiding shows here what a set would hold; only a set that is used in a view changes a drawing.
      </p>
    </div>
  );
}
