/** A stand-in for the server as far as edits go: it keeps one study, knows an edit that comes twice, and loses what it is told to lose. */
import { vi } from "vitest";

import type { Change, Command, Study } from "../src/api/client";
import { withChanges } from "../src/desk/edits";

/** What may go wrong with one request: it never arrives, its answer never comes back, or the server is busy. */
export const FAULTS = ["lost on the way", "answer lost", "busy"] as const;
export type Fault = (typeof FAULTS)[number];

export const studyOf = (notes: string[] = []): Study =>
  ({
    slug: "house",
    revision: 1,
    undo: "",
    redo: "",
    look: {
      traces: [
        { id: "paper", opacity: 1 },
        { id: "wash", opacity: 0.5 },
      ],
    },
    document: {
      name: "House",
      desk: { view_id: "v", view: { frame: { scale: 100 } } },
      views: [{ id: "v", mark: "A", sheet: {}, notes: notes.map((id) => ({ id })) }],
      boards: [],
      figures: [],
    },
  }) as unknown as Study;

const json = (status: number, body: unknown) =>
  new Response(JSON.stringify(body), { status, headers: { "Content-Type": "application/json" } });

type EditIn = { base: number; commands: Command[]; token: string; gesture: string };

export class Server {
  study = studyOf();
  /** Every request that arrived, as its method and the end of its path. */
  asked: string[] = [];
  /** Labels of the commands that were done, in order. */
  done: string[] = [];
  private calls = 0;
  private known = new Map<string, number>();

  constructor(
    private readonly fails: (call: number) => Fault | null = () => null,
    private readonly refuses: (command: Command) => string | null = () => null,
  ) {
    vi.stubGlobal("fetch", (request: Request) => this.answer(request));
  }

  /** Whether as many requests came that one of this number was among them. */
  reached = (call: number) => this.calls > call;

  private async answer(request: Request): Promise<Response> {
    const fault = this.fails(this.calls++);
    if (fault === "lost on the way") throw new TypeError("Failed to fetch");
    if (fault === "busy") return json(503, { message: "Busy; it is tried again." });
    const body = request.method === "POST" ? ((await request.json()) as EditIn) : null;
    const answer = this.work(request, body);
    if (fault === "answer lost") throw new TypeError("Failed to fetch");
    return answer;
  }

  private work(request: Request, body: EditIn | null): Response {
    const path = new URL(request.url).pathname.split("/").slice(4).join("/");
    this.asked.push(`${request.method} ${path}`);
    if (!body) return json(200, this.study);
    if (body.token && this.known.has(body.token)) return json(200, { changes: [], study: this.study });
    if (body.base !== this.study.revision)
      return json(409, { message: "Another window changed this study meanwhile." });
    const changes: Change[] = [];
    if (path === "undo") {
      this.done.push("undo");
      changes.push({ path: ["undo"], do: "set", value: "" });
    }
    for (const command of body.commands ?? []) {
      const refused = this.refuses(command);
      if (refused) return json(422, { message: refused });
      this.done.push((command as { label: string }).label);
      if (command.do === "look") changes.push(...command.changes.map((c) => ({ ...c, path: ["look", ...c.path] })));
      if (command.do === "view")
        changes.push(...command.changes.map((c) => ({ ...c, path: ["document", "desk", "view", ...c.path] })));
    }
    changes.push({ path: ["revision"], do: "set", value: this.study.revision + 1 });
    this.study = withChanges(this.study, changes);
    if (body.token) this.known.set(body.token, this.study.revision);
    return json(200, { changes, study: null });
  }
}
