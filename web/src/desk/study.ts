import { notifyManager, type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { create } from "zustand";

import { answered, type Desk, http, type Job, type Landmarks, type ModelEdit, Refused, type SavedView, type Study, type StudyDocument, type ViewKind } from "../api/client";
import { useScreen } from "./screen";

export type Change = { path: string[]; value: unknown };
type Edit = { label: string; changes: Change[]; gesture: string };

/** The document with values set at paths, shown at once while the server makes the same change for good. */
export function withChanges(document: StudyDocument, changes: Change[]): StudyDocument {
  const copy = structuredClone(document) as unknown as Record<string, unknown>;
  for (const { path, value } of changes) {
    let place: unknown = copy;
    const step = (at: unknown, name: string): [Record<string, unknown> | unknown[], string | number] => {
      if (Array.isArray(at)) {
        const index = at.findIndex((row: { id?: string }) => row?.id === name);
        return [at, index >= 0 ? index : Number(name)];
      }
      return [at as Record<string, unknown>, name];
    };
    for (const name of path.slice(0, -1)) {
      const [owner, key] = step(place, name);
      place = (owner as Record<string | number, unknown>)[key];
    }
    const [owner, key] = step(place, path.at(-1)!);
    (owner as Record<string | number, unknown>)[key] = value;
  }
  return copy as unknown as StudyDocument;
}

/** Whether something that was done is still on its way to the server: until then the picture shows what was before. */
export const useSending = create<{ sending: boolean }>(() => ({ sending: false }));

/** Sends edits one after another, each upon the revision before; of one gesture only the newest waits. */
class Edits {
  private waiting: Edit[] = [];
  private busy = false;

  constructor(
    private readonly slug: string,
    private readonly queries: QueryClient,
  ) {}

  private key = () => ["study", this.slug];
  private study = () => this.queries.getQueryData<Study>(this.key());

  push(label: string, changes: Change[], gesture = ""): void {
    const study = this.study();
    if (!study) return;
    this.queries.setQueryData<Study>(this.key(), { ...study, document: withChanges(study.document, changes) });
    const last = this.waiting.at(-1);
    if (gesture && last?.gesture === gesture) this.waiting[this.waiting.length - 1] = { label, changes, gesture };
    else this.waiting.push({ label, changes, gesture });
    useSending.setState({ sending: true });
    void this.run();
  }

  /** Wait until all is sent, then do something that answers with the study. */
  async then(work: (base: number) => Promise<Study>): Promise<boolean> {
    useSending.setState({ sending: true });
    while (this.busy || this.waiting.length) await new Promise((r) => setTimeout(r, 15));
    this.busy = true;
    useSending.setState({ sending: true });
    try {
      const study = this.study();
      if (!study) return false;
      this.queries.setQueryData(this.key(), await work(study.revision));
      return true;
    } catch (error) {
      this.failed(error);
      return false;
    } finally {
      this.busy = false;
      void this.run();
    }
  }

  private async run(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    try {
      for (let edit = this.waiting.shift(); edit; edit = this.waiting.shift()) {
        const study = this.study()!;
        const got = await answered<Study>(
          http.POST("/api/studies/{slug}/edits", {
            params: { path: { slug: this.slug } },
            body: { base: study.revision, ...edit },
          }),
        );
        // What is still waiting is shown on top of what the server has.
        const document = this.waiting.reduce((d, e) => withChanges(d, e.changes), got.document);
        this.queries.setQueryData<Study>(this.key(), { ...got, document });
      }
    } catch (error) {
      this.waiting = [];
      this.failed(error);
    } finally {
      this.busy = false;
      // After those who show the study were told of it: nobody is to take what was shown before for what is stored now.
      notifyManager.schedule(() => useSending.setState({ sending: this.busy || this.waiting.length > 0 }));
    }
  }

  private failed(error: unknown): void {
    toast.error(error instanceof Refused ? error.message : "This change could not be made; try it again.");
    void this.queries.invalidateQueries({ queryKey: this.key() });
  }
}

/** The job that changes the model now, for whoever shows its progress. */
export const useModelJob = create<{ job: Job | null }>(() => ({ job: null }));

/** Wait for a job, telling its progress; throws what it says when it does not end well. */
export async function finished(job: Job, watch: (job: Job | null) => void): Promise<Job> {
  let now = job;
  try {
    while (isOpen(now)) {
      watch(now);
      await new Promise((r) => setTimeout(r, 150));
      now = await answered<Job>(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: now.id } } }));
    }
  } finally {
    watch(null);
  }
  if (now.state !== "done") throw new Refused(now.message, 422);
  return now;
}

const edits = new Map<string, Edits>();
const kinds = new Map<string, ViewKind>();

export type ViewAction = "open" | "save" | "keep" | "remove" | "duplicate" | "order" | "lock" | "unlock" | "group" | "paste";
export type Side = "left" | "right" | "top" | "bottom";

export type Editing = {
  study: Study;
  saved: SavedView;
  edit: (label: string, changes: Change[], gesture?: string) => void;
  /** Change the model; resolves when it is changed, also where a job has to do it. */
  model: (...edits: ModelEdit[]) => Promise<boolean>;
  /** Do something that answers with the study as it is then. */
  replace: (work: (base: number) => Promise<Study>) => Promise<boolean>;
  /** Take the study anew from the server. */
  refresh: () => Promise<void>;
  act: (action: ViewAction, some?: { view_id?: string; name?: string; text?: string; place?: number }) => Promise<boolean>;
  /** The view on the desk as a kind of view with its settings; of one gesture only the newest counts. */
  kind: (kind: ViewKind, gesture?: string) => void;
  /** The view on the desk as another kind, set up as is usual. */
  begin: (kind: string) => Promise<boolean>;
  /** Draw a side of the paper out, or fit the drawing on it. */
  paper: (side?: Side, millimetres?: number) => Promise<boolean>;
  step: (back: boolean) => Promise<boolean>;
};

/** The study with all that changes it. */
export function useStudy(slug: string): { editing: Editing | null; error: Error | null } {
  const queries = useQueryClient();
  const query = useQuery({
    queryKey: ["study", slug],
    queryFn: () => answered<Study>(http.GET("/api/studies/{slug}", { params: { path: { slug } } })),
    staleTime: Infinity,
  });
  const queue = useMemo(() => {
    const found = edits.get(slug) ?? new Edits(slug, queries);
    edits.set(slug, found);
    return found;
  }, [slug, queries]);

  const study = query.data;
  const editing = useMemo<Editing | null>(() => {
    if (!study) return null;
    const params = { path: { slug } };
    return {
      study,
      saved: study.document.views.find((v) => v.id === study.document.desk.view_id)!,
      edit: (label, changes, gesture) => queue.push(label, changes, gesture),
      model: (...changes) =>
        queue.then(async (base) => {
          const got = await answered<{ study: Study | null; job: Job | null }>(
            http.POST("/api/studies/{slug}/model", { params, body: { base, edits: changes, gesture: "" } }),
          );
          if (got.study) return got.study;
          const done = await finished(got.job!, (job) => useModelJob.setState({ job }));
          const said = (done.result as { said?: string }).said;
          if (said) toast(said);
          return answered<Study>(http.GET("/api/studies/{slug}", { params }));
        }),
      replace: (work) => queue.then(work),
      refresh: () => queries.invalidateQueries({ queryKey: ["study", slug] }),
      act: (action, some) =>
        queue.then((base) =>
          answered<Study>(
            http.POST("/api/studies/{slug}/views", { params, body: { base, action, view_id: "", name: "", text: "", place: 0, ...some } }),
          ),
        ),
      kind: (kind, gesture = "kind") => {
        // While one is under way the next waits, and a later one takes its place.
        const waits = kinds.has(slug);
        kinds.set(slug, kind);
        if (waits) return;
        void queue.then((base) => {
          const newest = kinds.get(slug)!;
          kinds.delete(slug);
          return answered<Study>(http.POST("/api/studies/{slug}/kind", { params, body: { base, kind: newest, gesture } }));
        });
      },
      begin: (kind) => queue.then((base) => answered<Study>(http.POST("/api/studies/{slug}/kind/begin", { params, body: { base, kind } }))),
      paper: (side, millimetres = 0) =>
        queue.then((base) => answered<Study>(http.POST("/api/studies/{slug}/frame", { params, body: { base, side: side ?? null, millimetres } }))),
      step: (back) =>
        queue.then((base) =>
          answered<Study>(
            back
              ? http.POST("/api/studies/{slug}/undo", { params, body: { base } })
              : http.POST("/api/studies/{slug}/redo", { params, body: { base } }),
          ),
        ),
    };
  }, [study, slug, queue, queries]);
  return { editing, error: query.error };
}

/** What the forms offer: blend modes, trade scales, units; the core's own lists. */
export function useChoices() {
  return useQuery({ queryKey: ["choices"], queryFn: () => answered(http.GET("/api/choices")), staleTime: Infinity }).data;
}

const NO_LANDMARKS: Landmarks = { levels: [], fronts: [] };

/** The storeys and the fronts of the model, by which views are set up. */
export function useLandmarks(slug: string, version: string): Landmarks {
  const found = useQuery({
    queryKey: ["landmarks", slug, version],
    queryFn: () => answered(http.GET("/api/studies/{slug}/landmarks", { params: { path: { slug } } })),
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  return found.data ?? NO_LANDMARKS;
}

/** The desk as it is for a state of the study; of the state before while that is not known yet. */
export function useDesk(slug: string, revision: number | undefined, paused: boolean) {
  const width = useScreen((s) => s.pixels);
  return useQuery<Desk>({
    queryKey: ["desk", slug, revision, paused],
    enabled: revision !== undefined,
    queryFn: () => {
      const params = { path: { slug }, query: { width } };
      return answered<Desk>(paused ? http.GET("/api/studies/{slug}/desk", { params }) : http.POST("/api/studies/{slug}/desk", { params }));
    },
    placeholderData: (before) => before,
    refetchInterval: (query) => {
      const desk = query.state.data;
      return desk && !desk.problem && isOpen(desk.job) ? 150 : false;
    },
  });
}

/** Whether a job is still to be waited for. */
export const isOpen = (job: Job | null | undefined): boolean => job?.state === "waiting" || job?.state === "working";

/** True a moment after something began to be so, and false at once when it ends: what passes in a blink is not said. */
export function useLate(now: boolean, after = 160): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    if (!now) return setLate(false);
    const timer = setTimeout(() => setLate(true), after);
    return () => clearTimeout(timer);
  }, [now, after]);
  return now && late;
}
