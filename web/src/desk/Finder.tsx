import { useState } from "react";

import { Leaf } from "../shared/controls";
import { useScreen } from "./screen";

/** What can be done: its name, the keys beside it, other keys that do the same, and what it is called where its name says what it would do now. */
export type Action = { name: string; keys: string; run: () => void; off?: boolean; also?: string; calls?: string };

/** Every action by its name, with its keys beside it. */
export function Finder({ actions }: { actions: Action[] }) {
  const { finding, set } = useScreen();
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const found = actions.filter((a) => !a.off && wanted.every((w) => a.name.toLowerCase().includes(w)));
  const close = () => {
    set({ finding: false });
    setWords("");
    setAt(0);
  };
  const take = (action: Action | undefined) => {
    if (!action) return;
    close();
    action.run();
  };
  return (
    <Leaf
      open={finding}
      onClose={close}
      title="Find an action"
      about="Type a part of its name; Enter does the one that is marked."
    >
      <input
        className="field w-full text-[16px]"
        aria-label="Name of the action"
        role="combobox"
        aria-expanded="true"
        aria-controls="finder-list"
        aria-activedescendant={found[at] ? `finder-${at}` : undefined}
        autoFocus
        value={words}
        onChange={(e) => {
          setWords(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          else if (e.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (e.key === "Enter") take(found[at]);
          else return;
          e.preventDefault();
        }}
      />
      <ul id="finder-list" role="listbox" aria-label="Actions" className="mt-2 max-h-72 overflow-auto">
        {found.map((action, i) => (
          <li
            key={action.name}
            id={`finder-${i}`}
            role="option"
            aria-selected={i === at}
            className={`flex cursor-pointer justify-between border-b border-hairline py-1.5 ${i === at ? "font-semibold text-sanguine" : ""}`}
            onPointerMove={() => setAt(i)}
            onClick={() => take(action)}
          >
            <span>{action.name}</span>
            <span className="quiet text-xs">{action.keys}</span>
          </li>
        ))}
      </ul>
      {found.length === 0 && <p className="quiet py-2">No action is called that.</p>}
    </Leaf>
  );
}
