/** A file is brought: it goes up, is read, is asked about, and becomes a study or the next version of one. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, test, vi } from "vitest";

import type { Job, Study } from "../src/api/client";
import { Bring } from "../src/studies/Bring";
import { HomePage } from "../src/studies/HomePage";

const json = (body: unknown, status = 200) =>
  new Response(status === 204 ? null : JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json" },
  });
const FOUND = {
  name: "House",
  units: "mm",
  up: "y",
  because: "the file says nothing, and in millimetres it is as large as a house",
  notes: ["2 faces have no area and are left out."],
  format: "OBJ",
  size: [12_000, 6_500, 9_000],
  parts: 1,
  triangles: 1234,
  materials: 2,
  rooms: 0,
};
const job = (some: Partial<Job> = {}): Job =>
  ({ id: 4, state: "done", stage: "", progress: 1, seconds_left: null, message: "", result: FOUND, ...some }) as Job;

/** A stand-in for the server: what it answers to a method and the end of a path, and all that it was asked. */
function server(answers: Record<string, (body: unknown) => Response>) {
  const asked: { what: string; body: unknown }[] = [];
  vi.stubGlobal("fetch", async (request: Request | string, init?: RequestInit) => {
    const [method, url] =
      typeof request === "string" ? [init?.method ?? "GET", request] : [request.method, request.url];
    const what = `${method} ${new URL(url, "http://desk.test").pathname.replace("/api/", "")}`;
    const body =
      init?.body ?? (typeof request !== "string" && method !== "GET" ? await request.json().catch(() => null) : null);
    asked.push({ what, body });
    const found = answers[what];
    return found ? found(body) : json({ message: `Nothing is known of ${what}.` }, 404);
  });
  return {
    asked,
    bodies: (what: string) => asked.filter((a) => a.what === what).map((a) => a.body),
    saw: (what: string) => asked.some((a) => a.what === what),
  };
}

function shown(what: React.ReactNode) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  queries.setQueryData(["choices"], {
    formats: ["OBJ", "IFC"],
    units: { m: 1, cm: 0.01, mm: 0.001, ft: 0.3048, in: 0.0254 },
  });
  queries.setQueryDefaults(["choices"], { staleTime: Infinity });
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

const STUDY = {
  slug: "house",
  model: { version: "m", low: [0, 0, 0], high: [12, 9, 6.5], units: "cm", up: "z" },
} as unknown as Study;
const file = (name: string) => new File(["o Wall"], name);
const choose = (...files: File[]) => userEvent.upload(screen.getByLabelText("Model file"), files);
const pick = async (list: string, option: string) => {
  screen.getByRole("combobox", { name: list }).focus();
  await userEvent.keyboard("{Enter}");
  await userEvent.click(screen.getByRole("option", { name: option }));
};

beforeEach(() => history.replaceState(null, "", "/"));

describe("a file", () => {
  test("is read, asked about in what it was read as, and made a study of", async () => {
    const seen = server({
      "POST uploads": () => json(job({ state: "working", result: {} })),
      "GET jobs/4": () => json(job()),
      "POST uploads/4/accept": () => json(job({ result: { slug: "house-2", number: 1 } })),
    });
    shown(<Bring />);
    await choose(file("house.obj"), file("house.mtl"));
    expect(await screen.findByText(/OBJ, read as millimetres, Y up: the file says nothing/)).toBeTruthy();
    expect((seen.bodies("POST uploads")[0] as FormData).getAll("files").map((f) => (f as File).name)).toEqual([
      "house.obj",
      "house.mtl",
    ]);
    expect(screen.getByTestId("size").textContent).toBe("12 × 9 m, 6.5 m high");
    expect(screen.getByText("1 part, 2 materials, 1,234 triangles")).toBeTruthy();
    expect(screen.getByText("2 faces have no area and are left out.")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Make a study of it" }));
    await waitFor(() => expect(location.pathname).toBe("/study/house-2"));
    expect(seen.bodies("POST uploads/4/accept")).toEqual([
      { name: "House", units: "mm", up: "y", study: "", joins: false, source: "" },
    ]);
  });
  test("in other units or with another axis is as large as that makes it", async () => {
    server({ "POST uploads": () => json(job()), "GET jobs/4": () => json(job()) });
    shown(<Bring />);
    await choose(file("house.obj"));
    await screen.findByTestId("size");
    await pick("Units of the file", "inches");
    expect(screen.getByTestId("size").textContent).toBe("304.8 × 228.6 m, 165.1 m high");
    await pick("Up in the file", "Z");
    expect(screen.getByTestId("size").textContent).toBe("304.8 × 165.1 m, 228.6 m high");
  });
  test("without a name makes no study", async () => {
    server({ "POST uploads": () => json(job()), "GET jobs/4": () => json(job()) });
    shown(<Bring />);
    await choose(file("house.obj"));
    await userEvent.clear(await screen.findByLabelText("Name of the study"));
    expect((screen.getByRole("button", { name: "Make a study of it" }) as HTMLButtonElement).disabled).toBe(true);
  });
  test("that is refused says why at once, and another can be chosen", async () => {
    server({ "POST uploads": () => json({ message: "“plan.xyz” is no format that is read here." }, 422) });
    shown(<Bring />);
    await choose(file("plan.xyz"));
    expect((await screen.findByRole("alert")).textContent).toBe("“plan.xyz” is no format that is read here.");
    expect((screen.getByRole("button", { name: "Choose a file…" }) as HTMLButtonElement).disabled).toBe(false);
  });
  test("that cannot be read says so in the job's own words", async () => {
    server({
      "POST uploads": () => json(job({ state: "working" })),
      "GET jobs/4": () => json(job({ state: "failed", message: "Line 3 names a point that is not there." })),
    });
    shown(<Bring />);
    await choose(file("house.obj"));
    expect((await screen.findByRole("alert")).textContent).toBe("Line 3 names a point that is not there.");
    expect(screen.queryByTestId("size")).toBeNull();
  });
  test("that cannot be sent says what to look at", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("Failed to fetch")));
    shown(<Bring />);
    await choose(file("house.obj"));
    expect((await screen.findByRole("alert")).textContent).toContain("could not be sent");
  });
  test("that is put away is thrown away", async () => {
    const seen = server({
      "POST uploads": () => json(job()),
      "GET jobs/4": () => json(job()),
      "POST uploads/4/discard": () => json({}),
    });
    shown(<Bring />);
    await choose(file("house.obj"));
    await userEvent.click(await screen.findByRole("button", { name: "Put it away" }));
    await waitFor(() => expect(seen.saw("POST uploads/4/discard")).toBe(true));
    expect(screen.queryByTestId("size")).toBeNull();
  });
  test("whose study could not be made stays asked about, with the reason", async () => {
    server({
      "POST uploads": () => json(job()),
      "GET jobs/4": () => json(job()),
      "POST uploads/4/accept": () => json({ message: "The disk is full; make room and try again." }, 507),
    });
    shown(<Bring />);
    await choose(file("house.obj"));
    await userEvent.click(await screen.findByRole("button", { name: "Make a study of it" }));
    expect((await screen.findByRole("alert")).textContent).toBe("The disk is full; make room and try again.");
    expect(screen.getByTestId("size")).toBeTruthy();
  });
  test("that was packed as a study comes back as one", async () => {
    const seen = server({
      "POST archives": () => json(job({ state: "waiting", result: {} })),
      "GET jobs/4": () => json(job({ result: { slug: "kiln-3" } })),
    });
    shown(<Bring />);
    await choose(file("Kiln.STUDY.zip"));
    await waitFor(() => expect(location.pathname).toBe("/study/kiln-3"));
    expect(seen.saw("POST uploads")).toBe(false);
  });
  test("can be dropped where it may be laid", async () => {
    const seen = server({ "POST uploads": () => json(job()), "GET jobs/4": () => json(job()) });
    shown(<Bring />);
    const place = screen.getByRole("region", { name: "Bring a model" });
    fireEvent.dragOver(place);
    fireEvent.drop(place, { dataTransfer: { files: [file("house.obj")] } });
    await waitFor(() => expect(seen.saw("POST uploads")).toBe(true));
  });
});

describe("the next version", () => {
  const brought = async (size = [1200, 900, 650]) => {
    const seen = server({
      "POST uploads": () => json(job()),
      "GET jobs/4": () => json(job({ result: { ...FOUND, size } as never })),
      "GET studies/house/parts": () => json({ joined: [{ id: "site", name: "Hillside" }] }),
      "POST uploads/4/accept": () => json(job({ result: { slug: "house", number: 2 } })),
    });
    const done = vi.fn();
    shown(<Bring study={STUDY} onDone={done} />);
    await choose(file("house.obj"));
    await screen.findByTestId("size");
    return { seen, done };
  };
  test("is read as the one before was, where that makes it about as large", async () => {
    const { seen, done } = await brought();
    expect(screen.getByTestId("size").textContent).toBe("12 × 9 m, 6.5 m high");
    await userEvent.click(screen.getByRole("button", { name: "Take it in" }));
    await waitFor(() => expect(done).toHaveBeenCalledWith(2));
    expect(seen.bodies("POST uploads/4/accept")).toEqual([
      { name: "", units: "cm", up: "z", study: "house", joins: false, source: "" },
    ]);
  });
  test("of quite another size is read as it says itself", async () => {
    await brought([12_000_000, 9_000_000, 6_500_000]);
    expect(screen.getByRole("combobox", { name: "Units of the file" }).textContent).toContain("millimetres");
  });
  test("may be of a joined file, or stand beside it", async () => {
    const { seen } = await brought();
    await pick("It is", "the next version of “Hillside”");
    expect(screen.getByRole("button", { name: "Take it in" })).toBeTruthy();
    await pick("It is", "a site or context beside it");
    await userEvent.click(screen.getByRole("button", { name: "Join it" }));
    await waitFor(() =>
      expect(seen.bodies("POST uploads/4/accept")).toEqual([
        { name: "", units: "mm", up: "y", study: "house", joins: true, source: "" },
      ]),
    );
  });
});

describe("the first page", () => {
  const row = {
    slug: "kiln",
    name: "Kiln House",
    views: 1,
    first_view: "a",
    problem: "",
    model: { parts: 412, triangles: 30_500 },
  };
  const home = (rows: unknown[], more: Record<string, (body: unknown) => Response> = {}) => {
    const seen = server({
      "GET studies": () => json(rows),
      "GET about": () => json({ version: "9.8.7" }),
      "POST studies/kiln/views/a/picture": () => json({}, 204),
      ...more,
    });
    shown(<HomePage />);
    return seen;
  };
  test("lists what there is, and says its version", async () => {
    home([row, { ...row, slug: "two", name: "Two", first_view: "", views: 3 }]);
    expect(await screen.findByText("1 view · 412 parts · 30,500 triangles")).toBeTruthy();
    expect(screen.getByText("3 views · 412 parts · 30,500 triangles")).toBeTruthy();
    expect(await screen.findByText("Version 9.8.7")).toBeTruthy();
    await userEvent.click(screen.getByText("Two"));
    expect(location.pathname).toBe("/study/two");
  });
  test("says what to do where there is nothing", async () => {
    home([]);
    expect(await screen.findByText("No study yet. Bring a model above to begin one.")).toBeTruthy();
  });
  test("shows a study that cannot be shown with what is the matter", async () => {
    home([{ ...row, first_view: "", model: null, problem: "Its model cannot be read." }]);
    expect((await screen.findByRole("alert")).textContent).toBe("Its model cannot be read. Open it to do so.");
    expect(screen.getByText("cannot be shown as it is")).toBeTruthy();
  });
  test("says that it cannot be read, and tries again", async () => {
    const rows = [() => json({ message: "The studies cannot be read; is the disk there?" }, 500), () => json([row])];
    home([], { "GET studies": () => rows.shift()!() });
    expect((await screen.findByRole("alert")).textContent).toContain("The studies cannot be read");
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(await screen.findByText("Kiln House")).toBeTruthy();
  });
  test("removes a study only when it is told so twice", async () => {
    const seen = home([row], { "DELETE studies/kiln": () => json({}) });
    await userEvent.click(await screen.findByRole("button", { name: "Remove Kiln House" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
    expect(seen.saw("DELETE studies/kiln")).toBe(false);
    await userEvent.click(screen.getByRole("button", { name: "Remove Kiln House" }));
    await userEvent.click(screen.getByRole("button", { name: "Remove study" }));
    await waitFor(() => expect(seen.saw("DELETE studies/kiln")).toBe(true));
  });
});
