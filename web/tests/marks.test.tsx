/** Marks lie over one another as their list says. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";

import type { Mark } from "../src/api/client";
import { MarkList } from "../src/benches/ink/marks/MarkList";
import { MarkSettings } from "../src/benches/ink/marks/MarkSettings";
import type { Editing } from "../src/desk/study";

const mark = (id: string): Mark =>
  ({
    kind: "line",
    id,
    name: id,
    on: true,
    points: [],
    plane: { lies: "cut" },
    fills: [],
    lift: 0,
    pen: { weight: 0.25, colour: "#2e2a27", dash: [], opacity: 1 },
  }) as unknown as Mark;
const marks = ["lowest", "middle", "uppermost"].map(mark);

function shown(what: (editing: Editing) => React.ReactNode) {
  const editing = {
    study: {
      slug: "house",
      revision: 1,
      model: { version: "m" },
      document: { marks, views: [], regions: [], desk: { view: { frame: {} } } },
    },
    act: vi.fn(),
  } as unknown as Editing;
  vi.stubGlobal("fetch", () => new Promise(() => undefined));
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  render(<QueryClientProvider client={queries}>{what(editing)}</QueryClientProvider>);
  return editing as Editing & { act: ReturnType<typeof vi.fn> };
}

test("the uppermost is listed first", () => {
  shown((editing) => <MarkList editing={editing} />);
  const rows = within(screen.getByRole("list", { name: "Marks, the uppermost first" })).getAllByRole("listitem");
  expect(rows.map((row) => row.textContent!.replace(/in the cut.*/, ""))).toEqual(["uppermost", "middle", "lowest"]);
});

test("the arrow that points up lays a mark higher, and what lies at an end goes no farther", async () => {
  shown((editing) => <MarkSettings editing={editing} mark={marks[2]!} />);
  const [higher, lower] = [
    screen.getByRole("button", { name: "Lay this mark higher" }),
    screen.getByRole("button", { name: "Lay this mark lower" }),
  ] as HTMLButtonElement[];
  expect([higher!.textContent, higher!.disabled, lower!.textContent, lower!.disabled]).toEqual(["↑", true, "↓", false]);
});

test("a mark that is laid higher changes places with the one above it", async () => {
  const editing = shown((editing) => <MarkSettings editing={editing} mark={marks[0]!} />);
  await userEvent.click(screen.getByRole("button", { name: "Lay this mark higher" }));
  const [command] = editing.act.mock.calls[0] as [{ changes: unknown[] }];
  expect(command.changes).toEqual([{ path: ["marks"], do: "order", value: ["middle", "lowest", "uppermost"] }]);
});
