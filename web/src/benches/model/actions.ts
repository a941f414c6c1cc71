import type { Parts } from "../../api/client";
import type { Action } from "../../desk/Finder";
import type { Editing } from "../../desk/study";
import { useChoice } from "./choice";
import { grown } from "./parts";

/** What can be done with the chosen parts, by name and by key. */
export function modelActions(editing: Editing, parts: Parts | undefined): Action[] {
  const { chosen, choose, set, schedule } = useChoice.getState();
  const numbers = [...chosen];
  const none = !parts || numbers.length === 0;
  const there = () => parts!.name.map((_, n) => n).filter((n) => !parts!.absent.includes(n));
  return [
    {
      name: "Hide the chosen parts",
      keys: "X",
      run: () => void editing.model({ do: "hide", parts: numbers }),
      off: none,
    },
    {
      name: "Show the chosen parts alone",
      keys: "O",
      run: () => void editing.model({ do: "isolate", parts: numbers }),
      off: none,
    },
    {
      name: "Show all parts",
      keys: "A",
      run: () => void editing.model({ do: "show", parts: [] }),
      off: !parts?.hidden.length,
    },
    {
      name: "Choose all the other parts",
      keys: "I",
      run: () =>
        choose(
          there().filter((n) => !chosen.has(n)),
          "only",
        ),
      off: !parts,
    },
    {
      name: "Choose all parts of the same layer",
      keys: "",
      run: () => choose(grown(parts!, chosen, "layer"), "add"),
      off: none,
    },
    {
      name: "Choose all parts of the same material",
      keys: "",
      run: () => choose(grown(parts!, chosen, "material"), "add"),
      off: none,
    },
    {
      name: "Choose all parts of the same shape",
      keys: "",
      run: () => choose(grown(parts!, chosen, "shape"), "add"),
      off: none,
    },
    { name: "Choose no part", keys: "", run: () => choose([], "only"), off: none },
    {
      name: "Drop the chosen parts from the study",
      keys: "",
      run: () => void editing.model({ do: "drop", parts: numbers }),
      off: none,
    },
    { name: "List of parts", keys: "L", run: () => set({ schedule: !schedule }), off: !parts },
  ];
}
