/** Work that takes a while is followed to its end, told as it is, stopped, and found again by its name. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { beforeEach, describe, expect, test, vi } from "vitest";

import { type Job, Refused } from "../src/api/client";
import { CompareLine } from "../src/desk/CompareLine";
import { type Action, Finder } from "../src/desk/Finder";
import { useScreen } from "../src/desk/screen";
import { finished, useLate } from "../src/desk/study";
import { isGone, isOpen, useJob, useStoppedOnLeaving } from "../src/shared/jobs";
import { usePicture } from "../src/shared/picture";
import { ProgressLine } from "../src/shared/ProgressLine";

const job = (some: Partial<Job> = {}): Job =>
  ({
    id: 7,
    state: "working",
    stage: "Cutting",
    progress: 0.4,
    seconds_left: 3.2,
    message: "",
    result: {},
    ...some,
  }) as Job;
const json = (body: unknown, status = 200) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });
const within = ({ children }: { children: ReactNode }) => (
  <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { retry: false } } })}>
    {children}
  </QueryClientProvider>
);

/** Answers in turn; the last one again and again. */
function answers(...rows: (() => Response | Promise<Response>)[]) {
  const asked = vi.fn(async (_request: Request | string, _init?: RequestInit) =>
    rows[Math.min(asked.mock.calls.length - 1, rows.length - 1)]!(),
  );
  vi.stubGlobal("fetch", asked);
  return asked;
}

test("what is open is waited for", () => {
  expect(
    (["waiting", "working", "done", "failed", "cancelled"] as Job["state"][]).filter((state) => isOpen(job({ state }))),
  ).toEqual(["waiting", "working"]);
  expect([isOpen(null), isOpen(undefined)]).toEqual([false, false]);
});

describe("a job", () => {
  test("is followed to its end, also over a while without an answer", async () => {
    const asked = answers(
      () => json(job()),
      () => Promise.reject(new TypeError("Failed to fetch")),
      () => json(job({ state: "done", progress: 1 })),
    );
    const { result } = renderHook(() => useJob(7, 5), { wrapper: within });
    await waitFor(() => expect(result.current.data?.state).toBe("done"));
    const calls = asked.mock.calls.length;
    await new Promise((r) => setTimeout(r, 40));
    expect([calls, asked.mock.calls.length]).toEqual([3, 3]);
  });
  test("that is gone is asked no more", async () => {
    const asked = answers(() => json({ message: "There is no such job." }, 404));
    const { result } = renderHook(() => useJob(7, 5), { wrapper: within });
    await waitFor(() => expect(isGone(result.current.error)).toBe(true));
    await new Promise((r) => setTimeout(r, 40));
    expect(asked.mock.calls.length).toBe(1);
  });
  test("is waited for with its progress, and what it says at a bad end is thrown", async () => {
    answers(
      () => json(job({ progress: 0.8 })),
      () => json(job({ state: "failed", message: "The part is open." })),
    );
    const seen: (number | null)[] = [];
    await expect(finished(job(), (now) => seen.push(now && now.progress))).rejects.toThrow("The part is open.");
    expect(seen).toEqual([0.4, 0.8, null]);
  });
  test("is waited for over answers that are lost; one that is gone is not", async () => {
    answers(
      () => Promise.reject(new TypeError("Failed to fetch")),
      () => json({ message: "Busy; it is tried again." }, 503),
      () => json(job({ state: "done", result: { slug: "house" } })),
    );
    expect((await finished(job(), () => undefined)).result).toEqual({ slug: "house" });
    answers(() => json({ message: "There is no such job." }, 404));
    await expect(finished(job(), () => undefined)).rejects.toThrow("There is no such job.");
  });
  test("that nobody waits for any more is stopped as the page is left", () => {
    const asked = answers(() => json({}));
    const { unmount } = renderHook(() => useStoppedOnLeaving(job()));
    unmount();
    expect((asked.mock.calls[0]![0] as Request).url).toContain("/api/jobs/7/cancel");
  });
  test("that has ended is left alone", () => {
    const asked = answers(() => json({}));
    renderHook(() => useStoppedOnLeaving(job({ state: "done" }))).unmount();
    expect(asked).not.toHaveBeenCalled();
  });
});

describe("progress", () => {
  test.each([
    [{}, "Cutting", "40 % · 4 s left"],
    [{ state: "waiting" as const, progress: 0, seconds_left: null }, "Waiting for its turn", "0 %"],
    [{ stage: "", seconds_left: 0.6 }, "Beginning", "40 % · a moment"],
  ])("says what is done, how far it is and how long it takes: %#", (some, words, far) => {
    render(<ProgressLine job={job(some)} />);
    expect(screen.getByRole("status").textContent).toContain(words);
    expect(screen.getByRole("status").textContent).toContain(far);
  });
  test("can be stopped", async () => {
    const stopped = vi.fn();
    render(<ProgressLine job={job()} onStop={stopped} />);
    await userEvent.click(screen.getByRole("button", { name: "Stop" }));
    expect(stopped).toHaveBeenCalledOnce();
  });
  test("that passes in a blink is not said", () => {
    vi.useFakeTimers();
    const { result, rerender } = renderHook(({ now }) => useLate(now, 100), { initialProps: { now: true } });
    const seen = [result.current];
    act(() => void vi.advanceTimersByTime(99));
    seen.push(result.current);
    act(() => void vi.advanceTimersByTime(2));
    seen.push(result.current);
    rerender({ now: false });
    expect([...seen, result.current]).toEqual([false, false, true, false]);
    vi.useRealTimers();
  });
});

describe("a picture", () => {
  beforeEach(() => {
    vi.stubGlobal(
      "URL",
      Object.assign(URL, { createObjectURL: (blob: Blob) => `blob:${blob.size}`, revokeObjectURL: () => undefined }),
    );
    Image.prototype.decode = () => Promise.resolve();
  });
  const blob = (size: number) => new Response("x".repeat(size));

  test("that is still to be drawn is asked for again until it is there", async () => {
    const asked = answers(
      () => new Response(null, { status: 204 }),
      () => new Response(null, { status: 204 }),
      () => blob(3),
    );
    const { result } = renderHook(() => usePicture("/a", { method: "POST", every: 5 }), { wrapper: within });
    expect(result.current).toMatchObject({ src: null, behind: true });
    await waitFor(() => expect(result.current.src).toBe("blob:3"));
    expect(result.current.behind).toBe(false);
    expect(asked.mock.calls.map(([, init]) => init?.method)).toEqual(["POST", "POST", "POST"]);
  });
  test("the newest is asked for when the one before is answered, and what lies between never", async () => {
    let let_go: (r: Response) => void = () => undefined;
    const asked = answers(
      () => new Promise<Response>((r) => (let_go = r)),
      () => blob(9),
    );
    const { result, rerender } = renderHook(({ address }) => usePicture(address, { every: 5 }), {
      wrapper: within,
      initialProps: { address: "/1" },
    });
    for (const address of ["/2", "/3", "/4"]) rerender({ address });
    expect(asked.mock.calls.map(([address]) => address)).toEqual(["/1"]);
    await act(async () => let_go(blob(1)));
    await waitFor(() => expect(result.current.shown).toBe("/4"));
    expect(asked.mock.calls.map(([address]) => address)).toEqual(["/1", "/4"]);
  });
  test("that is refused is not asked for again", async () => {
    const asked = answers(() => new Response(null, { status: 404 }));
    renderHook(() => usePicture("/gone", { every: 5 }), { wrapper: within });
    await new Promise((r) => setTimeout(r, 60));
    expect(asked.mock.calls.length).toBe(1);
  });
});

describe("an action by its name", () => {
  const actions: Action[] = [
    { name: "Open view A: Long section", keys: "Alt A", run: vi.fn() },
    { name: "Open view B: Plan", keys: "Alt B", run: vi.fn() },
    { name: "Undo", keys: "Ctrl Z", run: vi.fn(), off: true },
  ];
  const shown = () => {
    useScreen.setState({ finding: true });
    render(<Finder actions={actions} />);
    return screen.getByRole("combobox");
  };
  test("is found by parts of words in any order, and what is off is not offered", async () => {
    const field = shown();
    expect(screen.getAllByRole("option")).toHaveLength(2);
    await userEvent.type(field, "plan open");
    expect(screen.getAllByRole("option").map((o) => o.textContent)).toEqual(["Open view B: PlanAlt B"]);
    await userEvent.type(field, "{Enter}");
    expect(actions[1]!.run).toHaveBeenCalledOnce();
    expect(useScreen.getState().finding).toBe(false);
  });
  test("is chosen with the arrows, not beyond the ends", async () => {
    const field = shown();
    await userEvent.type(field, "{ArrowUp}{ArrowDown}{ArrowDown}{ArrowDown}");
    expect(screen.getAllByRole("option").map((o) => o.getAttribute("aria-selected"))).toEqual(["false", "true"]);
    expect(field.getAttribute("aria-activedescendant")).toBe("finder-1");
  });
  test("that there is none is said", async () => {
    await userEvent.type(shown(), "sculpture");
    expect(screen.getByText("No action is called that.")).toBeTruthy();
  });
});

test("a drawing is compared along a line that arrows move, within it", () => {
  useScreen.setState({ compare: { without: "wash", across: 0.99 } });
  render(<CompareLine src="/x" across={0.99} width={800} />);
  const line = screen.getByRole("slider");
  fireEvent.keyDown(line, { key: "ArrowRight" });
  expect(useScreen.getState().compare!.across).toBe(1);
  fireEvent.keyDown(line, { key: "ArrowLeft" });
  expect(useScreen.getState().compare!.across).toBeCloseTo(0.97);
});

test("an answer without words of its own says where to look", async () => {
  expect(new Refused("No.", 422).message).toBe("No.");
});
