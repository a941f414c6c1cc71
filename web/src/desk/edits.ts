/** What is done to a study on its way to the server: in order, each upon the revision before, and never dropped in silence. */
import { notifyManager, type QueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { create } from "zustand";

import { answered, type Change, type Changed, type Command, http, Refused, type Study } from "../api/client";

type Row = { id?: string };

/** Data with changes made, as the core makes them: `set` a value, `drop` a thing, put the rows of a list in an `order`. */
export function withChanges<T>(data: T, changes: readonly Change[]): T {
  const copy = structuredClone(data) as Record<string, unknown>;
  const indexOf = (rows: unknown[], name: string) => {
    const index = rows.findIndex((row) => (row as Row | null)?.id === name);
    return index >= 0 ? index : Number(name);
  };
  for (const { path, do: how, value } of changes) {
    let place: unknown = copy;
    for (const name of path.slice(0, -1))
      place = Array.isArray(place) ? place[indexOf(place, name)] : (place as Record<string, unknown>)[name];
    const last = path.at(-1)!;
    const rows = place as unknown[];
    if (how === "order") {
      const list = (
        Array.isArray(place) ? place[indexOf(place, last)] : (place as Record<string, unknown>)[last]
      ) as Row[];
      const rank = new Map((value as string[]).map((id, k) => [id, k]));
      const named = list.filter((row) => rank.has(row?.id ?? "")).sort((a, b) => rank.get(a.id!)! - rank.get(b.id!)!);
      list.forEach((row, k) => rank.has(row?.id ?? "") && (list[k] = named.shift()!));
    } else if (how === "drop") {
      if (Array.isArray(place)) rows.splice(indexOf(place, last), 1);
      else delete (place as Record<string, unknown>)[last];
    } else if (!Array.isArray(place)) (place as Record<string, unknown>)[last] = value;
    else if ((value as Row | null)?.id === last && !place.some((row) => (row as Row | null)?.id === last))
      rows.push(value);
    else rows[indexOf(place, last)] = value;
  }
  return copy as T;
}

/** The study as it will be after a command, as far as that can be shown before the server has answered. */
export function shownAfter(study: Study, command: Command): Study {
  const under =
    (...path: string[]) =>
    (change: Change) => ({ ...change, path: [...path, ...change.path] });
  const { desk } = study.document;
  switch (command.do) {
    case "view":
      return withChanges(study, command.changes.map(under("document", "desk", "view")));
    case "put_view":
      return withChanges(study, [{ path: ["document", "desk", "view"], do: "set", value: command.view }]);
    case "look":
      return withChanges(study, command.changes.map(under("look")));
    case "sheet":
      return withChanges(study, command.changes.map(under("document", "views", desk.view_id, "sheet")));
    case "notes":
      return withChanges(study, command.changes.map(under("document", "views", desk.view_id)));
    case "boards":
    case "marks":
    case "figures":
      return withChanges(study, command.changes.map(under("document")));
    case "role_rules":
      return withChanges(study, [{ path: ["document", "role_rules"], do: "set", value: command.rules }]);
    default:
      return study;
  }
}

/** Whether something that was done is still on its way to the server: until then the picture shows what was before. `unheard` counts
 * what nobody has answered, because the connection is broken. */
export const useSending = create<{ sending: boolean; unheard: number }>(() => ({ sending: false, unheard: 0 }));

type Waiting = {
  gesture: string;
  commands: readonly Command[];
  /** Sends it upon a revision; answers with what changed, or with the study as it is then. */
  send: (base: number) => Promise<Changed | Study>;
  /** Whether the server knows it again when it is sent twice. */
  known: boolean;
  /** Told the study as it is when this is done, or nothing where it was refused. */
  through: ((study: Study | null) => void)[];
};

const pause = (milliseconds: number) => new Promise((r) => setTimeout(r, milliseconds));

/** The edits of one study. Of one gesture only the newest waits. */
export class Edits {
  private waiting: Waiting[] = [];
  private busy = false;
  /** The study as the server last told it. */
  private told: Study | undefined;

  constructor(
    private readonly slug: string,
    private readonly queries: QueryClient,
  ) {
    window.addEventListener("beforeunload", (event) => {
      if (useSending.getState().unheard) event.preventDefault(); // the browser asks before it throws this away
    });
  }

  private key = () => ["study", this.slug];
  private shown = () => this.queries.getQueryData<Study>(this.key());

  /** Do something; resolves with the study when it is done, with nothing when it was refused. */
  push(commands: readonly Command[], gesture = ""): Promise<Study | null> {
    const token = crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;
    const send = (base: number) =>
      answered<Changed>(
        http.POST("/api/studies/{slug}/edits", {
          params: { path: { slug: this.slug } },
          body: { base, commands: [...commands], gesture, token, show: this.waiting.length === 1 },
        }),
      );
    return this.wait({ gesture, commands, send, known: true, through: [] });
  }

  /** Do something by way of the server alone. */
  then(send: Waiting["send"], gesture = ""): Promise<Study | null> {
    return this.wait({ gesture, commands: [], send, known: false, through: [] });
  }

  private wait(next: Waiting): Promise<Study | null> {
    const shown = this.shown();
    if (!shown) return Promise.resolve(null);
    if (!this.waiting.length) this.told = shown;
    const last = this.waiting.length > (this.busy ? 1 : 0) ? this.waiting.at(-1) : undefined;
    if (next.gesture && last?.gesture === next.gesture) {
      next.through = last.through;
      this.waiting.pop();
    }
    this.waiting.push(next);
    this.show();
    const done = new Promise<Study | null>((resolve) => next.through.push(resolve));
    useSending.setState({ sending: true });
    void this.run();
    return done;
  }

  /** What is still on its way is shown on top of what the server has told. */
  private show(): void {
    if (!this.told) return;
    const commands = this.waiting.flatMap((w) => w.commands);
    this.queries.setQueryData<Study>(this.key(), commands.reduce(shownAfter, this.told));
  }

  private async anew(): Promise<void> {
    this.told = await answered<Study>(http.GET("/api/studies/{slug}", { params: { path: { slug: this.slug } } }));
  }

  private take(answer: Changed | Study): void {
    if (!("changes" in answer)) this.told = answer;
    else if (answer.study) this.told = answer.study;
    else this.told = withChanges(this.told!, answer.changes);
  }

  private async run(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    let patience = 400;
    let asked = -1;
    while (this.waiting.length) {
      const now = this.waiting[0]!;
      let done = true;
      try {
        if (asked >= 0 && !now.known) {
          // It may have been done, and only its answer lost: then the study has moved on since it was asked for.
          await this.anew();
          if (this.told!.revision === asked) this.take(await now.send(asked));
        } else {
          asked = this.told!.revision;
          this.take(await now.send(asked));
        }
      } catch (error) {
        if (error instanceof Refused && (error.status === 0 || error.status === 503)) {
          useSending.setState({ unheard: this.waiting.length });
          await pause(patience);
          patience = Math.min(patience * 2, 4000);
          continue;
        }
        done = false;
        await this.refused(error);
      }
      asked = -1;
      patience = 400;
      useSending.setState({ unheard: 0 });
      if (this.waiting[0] === now) this.waiting.shift();
      this.show();
      now.through.forEach((settle) => settle(done ? this.told! : null));
    }
    this.busy = false;
    // After those who show the study were told of it: nobody is to take what was shown before for what is stored now.
    notifyManager.schedule(() => useSending.setState({ sending: this.busy || this.waiting.length > 0 }));
  }

  /** Say what was refused, and take the study as it is. What was built on a state that is no more goes with it, and that is said. */
  private async refused(error: unknown): Promise<void> {
    const [, ...after] = this.waiting;
    const moved = error instanceof Refused && error.status === 409;
    const lost =
      moved && after.length ? ` Nor ${after.length === 1 ? "was the one" : `were the ${after.length}`} after it.` : "";
    toast.error((error instanceof Refused ? error.message : "This change could not be made; try it again.") + lost);
    if (moved) {
      this.waiting = [];
      after.forEach((w) => w.through.forEach((settle) => settle(null)));
    }
    try {
      await this.anew();
    } catch {
      void this.queries.invalidateQueries({ queryKey: this.key() });
    }
  }
}
