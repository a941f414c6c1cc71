import { Leaf, OnOff } from "../shared/controls";
import type { Action } from "./Finder";
import { useSingleKeys } from "./keys";
import { useScreen } from "./screen";

/** What keys do where something is in the hand, or lies under the pointer. */
const ELSEWHERE: [string, string][] = [
  ["Enter", "End what is drawn point by point, written or put along a line"],
  ["Backspace", "Take the last point back"],
  ["Esc", "Lay back what is in the hand"],
  ["Arrows", "Move a knob, a handle, or a drawing on its board; with Shift farther"],
  ["+ and −", "Nearer and farther in the model"],
  ["Shift, Alt with a press", "Choose one part more, or one less"],
];

/** All keys on one sheet, and the way to switch off those that are a single letter, figure or sign. */
export function KeySheet({ actions }: { actions: readonly Action[] }) {
  const { keys, set } = useScreen();
  const single = useSingleKeys();
  const rows = actions.filter((a) => a.keys);
  const views = rows.filter((a) => a.keys.startsWith("Alt "));
  const groups: [string, [string, string][]][] = [
    [
      "Anywhere",
      [
        ...rows
          .filter((a) => !views.includes(a))
          .map((a): [string, string] => [a.also ? `${a.keys}, ${a.also}` : a.keys, a.calls ?? a.name]),
        [".", "Find an action"],
        ["?", "Show this sheet"],
      ],
    ],
    ["Views", views.map((a) => [a.keys, a.name])],
    ["With something in the hand", ELSEWHERE],
  ];
  return (
    <Leaf
      open={keys}
      onClose={() => set({ keys: false })}
      title="Keys"
      about="Ctrl is the command key on machines that have one, Alt the option key."
    >
      <OnOff label="Keys that are one letter, figure or sign" value={single.on} onChange={single.set} />
      <div className="mt-3 max-h-[52vh] overflow-y-auto" tabIndex={0} role="group" aria-label="All keys">
        {groups.map(([group, lines]) =>
          lines.length === 0 ? null : (
            <table key={group} className="mb-4 w-full text-left">
              <caption className="label pb-1 text-left">{group}</caption>
              <tbody>
                {lines.map(([key, words]) => (
                  <tr
                    key={key + words}
                    className={`border-b border-hairline ${!single.on && !/ |Enter|Esc|Back|Arrows/.test(key) ? "quiet line-through" : ""}`}
                  >
                    <th scope="row" className="w-32 py-1 pr-4 font-semibold whitespace-nowrap">
                      {key}
                    </th>
                    <td className="py-1">{words}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          ),
        )}
      </div>
    </Leaf>
  );
}
