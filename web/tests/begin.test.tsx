/** Another study begins with a clear desk, and a fault in one part of the page takes no other along. */
import { fireEvent, render, renderHook, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { useStanding } from "../src/benches/collage/figures/standing";
import { usePainting } from "../src/benches/collage/windows";
import { useMarking } from "../src/benches/ink/marks/marking";
import { useChoice } from "../src/benches/model/choice";
import { useBegun } from "../src/desk/begin";
import { useRegions } from "../src/desk/regions";
import { useScreen } from "../src/desk/screen";
import { Bounded } from "../src/shared/Bounded";

test("what was chosen, in the hand, alone or hidden in one study is none of the next one's", () => {
  const { rerender, result } = renderHook(({ slug }) => useBegun(slug), { initialProps: { slug: "one" } });
  const before = [useScreen, useChoice, useMarking, useStanding, usePainting, useRegions].map((store) =>
    JSON.stringify(store.getState()),
  );
  useScreen.setState({
    alone: "wash",
    without: "lines",
    compare: { without: "paper", across: 0.5 },
    opened: ["group"],
    board: "b",
    zoom: 3,
    variants: true,
  });
  useChoice.setState({ chosen: new Set([3]), tool: "measure", schedule: true });
  useMarking.getState().take("arrow");
  useStanding.setState({ places: [[1, 2]], put: 4 });
  usePainting.getState().set({ mask: "m" });
  useRegions.getState().choose("kept");
  rerender({ slug: "two" });
  expect(result.current).toBe(true);
  expect(
    [useScreen, useChoice, useMarking, useStanding, usePainting, useRegions].map((store) =>
      JSON.stringify(store.getState()),
    ),
  ).toEqual(before);
});

test("the same study keeps what was chosen in it, and who works keeps the bench", () => {
  const { rerender } = renderHook(({ slug }) => useBegun(slug), { initialProps: { slug: "one" } });
  useScreen.setState({ bench: "Collage", pixels: 1400, alone: "wash" });
  rerender({ slug: "one" });
  expect(useScreen.getState().alone).toBe("wash");
  rerender({ slug: "two" });
  expect([useScreen.getState().bench, useScreen.getState().pixels, useScreen.getState().alone]).toEqual([
    "Collage",
    1400,
    "",
  ]);
  useScreen.setState(useScreen.getInitialState(), true);
});

test("a fault is said in its place, and shown again once it is gone", () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  let broken = true;
  const Form = () => {
    if (broken) throw new Error("out of bounds");
    return <p>The form</p>;
  };
  render(
    <>
      <Bounded what="This form">
        <Form />
      </Bounded>
      <p>The drawing</p>
    </>,
  );
  expect(screen.getByRole("alert").textContent).toContain(
    "This form cannot be shown: a fault of ours. What you did is kept",
  );
  expect(screen.getByText("The drawing")).toBeTruthy();
  broken = false;
  fireEvent.click(screen.getByRole("button", { name: "Show it again" }));
  expect(screen.getByText("The form")).toBeTruthy();
});
