import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { toast } from "sonner";
import { create } from "zustand";

import {
  answered,
  type Change,
  type Changed,
  type Command,
  type Desk,
  http,
  type Job,
  type Landmarks,
  type ModelEdit,
  Refused,
  type SavedView,
  type Study,
  type ViewKind,
} from "../api/client";
import { askJob, isOpen } from "../shared/jobs";
import { Edits } from "./edits";
import { useScreen } from "./screen";

/** The job that changes the model now, for whoever shows its progress. */
export const useModelJob = create<{ job: Job | null }>(() => ({ job: null }));

/** Wait for a job, telling its progress; throws what it says when it does not end well. */
export async function finished(job: Job, watch: (job: Job | null) => void): Promise<Job> {
  let now = job;
  try {
    while (isOpen(now)) {
      watch(now);
      await new Promise((r) => setTimeout(r, 150));
      // An answer that is lost is asked for again: the job goes on meanwhile.
      now = await askJob(now.id).catch((error: unknown) => {
        if (error instanceof Refused && error.status >= 400 && error.status < 500) throw error;
        return now;
      });
    }
  } finally {
    watch(null);
  }
  if (now.state !== "done") throw new Refused(now.message, 422);
  return now;
}

const edits = new Map<string, Edits>();

/** One value set at a place, as most edits are. */
export const at = (path: string[], value: unknown): Change => ({ path, do: "set", value });

export type Side = "left" | "right" | "top" | "bottom";

export type Editing = {
  study: Study;
  saved: SavedView;
  /** Do something to the study; resolves when it is done, with the study, or with nothing when it was refused. */
  act: (...commands: Command[]) => Promise<Study | null>;
  /** Change the view on the desk; paths begin at its fields. */
  view: (label: string, changes: Change[], gesture?: string) => void;
  /** Change pens, poche or traces: of this view, or of the finish that it wears. */
  look: (label: string, changes: Change[], everywhere: boolean, gesture?: string) => void;
  sheet: (label: string, changes: Change[], gesture?: string) => void;
  /** Change the model; resolves when it is changed, also where a job has to do it. */
  model: (...edits: ModelEdit[]) => Promise<Study | null>;
  /** Do something that only the server can. */
  replace: (work: (base: number) => Promise<Changed | Study>, gesture?: string) => Promise<Study | null>;
  /** Take the study anew from the server. */
  refresh: () => Promise<void>;
  /** The view on the desk as a kind of view with its settings; of one gesture only the newest counts. */
  kind: (kind: ViewKind, gesture?: string) => void;
  /** The view on the desk as another kind, set up as is usual. */
  begin: (kind: string) => Promise<Study | null>;
  /** Draw a side of the paper out, or fit the drawing on it. */
  paper: (side?: Side, millimetres?: number) => Promise<Study | null>;
  step: (back: boolean) => Promise<Study | null>;
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
      act: (...commands) => queue.push(commands),
      view: (label, changes, gesture) => void queue.push([{ do: "view", label, changes }], gesture),
      look: (label, changes, everywhere, gesture) =>
        void queue.push([{ do: "look", label, changes, everywhere }], gesture),
      sheet: (label, changes, gesture) => void queue.push([{ do: "sheet", label, changes }], gesture),
      model: (...changes) =>
        queue.then(async (base) => {
          const got = await answered<{ changed: Changed | null; job: Job | null }>(
            http.POST("/api/studies/{slug}/model", { params, body: { base, edits: changes, gesture: "" } }),
          );
          if (got.changed) return got.changed;
          const done = await finished(got.job!, (job) => useModelJob.setState({ job }));
          const said = (done.result as { said?: string }).said;
          if (said) toast(said);
          return answered<Study>(http.GET("/api/studies/{slug}", { params }));
        }),
      replace: (work, gesture) => queue.then(work, gesture),
      refresh: () => queries.invalidateQueries({ queryKey: ["study", slug] }),
      kind: (kind, gesture = "kind") =>
        void queue.then(
          (base) => answered<Changed>(http.POST("/api/studies/{slug}/kind", { params, body: { base, kind, gesture } })),
          gesture,
        ),
      begin: (kind) =>
        queue.then((base) =>
          answered<Changed>(http.POST("/api/studies/{slug}/kind/begin", { params, body: { base, kind } })),
        ),
      paper: (side, millimetres = 0) =>
        queue.then((base) =>
          answered<Changed>(
            http.POST("/api/studies/{slug}/frame", { params, body: { base, side: side ?? null, millimetres } }),
          ),
        ),
      step: (back) =>
        queue.then((base) =>
          answered<Changed>(
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
  return useQuery({ queryKey: ["choices"], queryFn: () => answered(http.GET("/api/choices")), staleTime: Infinity })
    .data;
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

/** Seconds that the desk may be waited for in one asking: a short job has ended by then, of a longer one the progress is told. */
const WAIT = 0.3;

/** The desk as it is for a state of the study; of the state before while that is not known yet. */
export function useDesk(slug: string, revision: number | undefined, paused: boolean) {
  const width = useScreen((s) => s.pixels);
  return useQuery<Desk>({
    queryKey: ["desk", slug, revision, paused],
    enabled: revision !== undefined,
    queryFn: () => {
      const params = { path: { slug }, query: { width, wait: WAIT } };
      return answered<Desk>(
        paused ? http.GET("/api/studies/{slug}/desk", { params }) : http.POST("/api/studies/{slug}/desk", { params }),
      );
    },
    placeholderData: (before) => before,
    refetchInterval: (query) => {
      const desk = query.state.data;
      return desk && !desk.problem && isOpen(desk.job) ? 40 : false;
    },
  });
}

/** What is to be said of a trace on the view that lies on the desk, as far as that is known. */
export function useRemarks(study: Study, traceId: string | undefined): string[] {
  const known = useQuery<Desk>({ queryKey: ["desk", study.slug, study.revision, false], enabled: false });
  return known.data?.traces.find((t) => t.id === traceId)?.remarks ?? [];
}

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
