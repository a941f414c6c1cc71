import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";

import { answered, http, type Job, type SetState } from "../api/client";
import { useStudy } from "../desk/study";
import { goTo } from "../shared/address";
import { Choice, OnOff } from "../shared/controls";
import { JobFile } from "../shared/JobFile";
import { isOpen } from "../shared/jobs";
import { ProgressLine } from "../shared/ProgressLine";
import { OutForm, useAsked } from "./OutForm";
import { useWriting } from "./writing";

type Item = SetState["items"][number];

/** All views and boards of a study, drawn in the background: what is drawn, what is not, and a contact sheet of all. */
export default function SetPage({ slug }: { slug: string }) {
  const { editing, error } = useStudy(slug);
  const queries = useQueryClient();
  const [asked, change] = useAsked(`set ${slug}`, 300);
  const [finish, setFinish] = useState("");
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const packing = useWriting(`set ${slug}`);
  const all = editing
    ? [...editing.study.document.views.map((v) => v.id), ...(editing.study.document.boards ?? []).map((b) => b.id!)]
    : [];
  const views = left.size ? all.filter((id) => !left.has(id)) : [];
  const body = { format: asked.format, out: asked.out, finish, views };
  const key = ["set", slug, editing?.study.revision, JSON.stringify({ ...body, views: [] })];
  const state = useQuery({
    queryKey: key,
    enabled: editing !== undefined,
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered<SetState>(
        http.POST("/api/studies/{slug}/set/state", { params: { path: { slug } }, body: { ...body, views: [] } }),
      ),
    refetchInterval: (q) => (isOpen(q.state.data?.job) ? 600 : false),
  });
  if (error)
    return (
      <p role="alert" className="p-8 text-sanguine">
        {error.message}
      </p>
    );
  if (!editing) return <p className="quiet p-8">Looking at the set …</p>;
  const { study } = editing;
  const items = state.data?.items ?? [];
  const wanted = items.filter((i) => !left.has(i.id));
  const open = wanted.filter((i) => !i.drawn);
  const job = state.data?.job;
  const working = isOpen(job);
  const stopped = !working && job?.state === "cancelled" && open.length > 0;
  const again = () => queries.invalidateQueries({ queryKey: ["set", slug] });
  const begin = async () => {
    try {
      await answered<Job>(http.POST("/api/studies/{slug}/set", { params: { path: { slug } }, body }));
    } catch (fault) {
      toast.error(fault instanceof Error ? fault.message : "The set could not be begun; try it again.");
    }
    void again();
  };
  const stop = async () => {
    if (job) await http.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } } });
    void again();
  };
  return (
    <main className="flex h-full flex-col">
      <header className="flex items-baseline gap-6 border-b border-hairline px-6 py-4">
        <button type="button" className="plain underline underline-offset-4" onClick={() => goTo(`/study/${slug}`)}>
          To the desk
        </button>
        <h1 className="text-[22px]">The set of {study.document.name}</h1>
        <p className="quiet ml-auto" aria-live="polite">
          {wanted.length - open.length} of {wanted.length} drawn
        </p>
      </header>
      <div className="flex min-h-0 flex-1">
        <section
          aria-label="How the set is drawn"
          className="w-[280px] shrink-0 overflow-y-auto border-r border-hairline px-6 py-5"
        >
          <OutForm asked={asked} change={change} />
          <Choice
            label="Finish"
            value={finish}
            options={[
              { value: "", label: "each view's own" },
              ...study.document.finishes.map((f) => ({ value: f.name, label: f.name })),
            ]}
            onChange={setFinish}
          />
          <button
            type="button"
            className="act mt-5 w-full text-center"
            disabled={working || !open.length}
            onClick={() => void begin()}
          >
            {!open.length && wanted.length
              ? "All is drawn"
              : stopped
                ? `Go on: ${open.length} to draw`
                : wanted.length > open.length
                  ? `Draw the ${open.length} that changed`
                  : "Draw the set"}
          </button>
          {working && job && (
            <div className="mt-3">
              <ProgressLine job={job} narrow onStop={() => void stop()} />
            </div>
          )}
          {stopped && <p className="quiet mt-2">It was stopped; what was drawn is there, and is not drawn again.</p>}
          {job?.state === "failed" && (
            <p role="alert" className="mt-2 text-sanguine">
              {job.message}
            </p>
          )}
          <h2 className="mt-7">What is drawn</h2>
          <p className="py-1 text-xs">
            {state.data?.contact_sheet ? (
              <a
                className="font-semibold text-sanguine underline underline-offset-4"
                href={`/api/studies/${slug}/set/files/Contact%20sheet.pdf`}
                download
              >
                Contact sheet
              </a>
            ) : (
              <span className="quiet">A contact sheet is drawn at the end.</span>
            )}
          </p>
          <button
            type="button"
            className="line-act mt-1 w-full text-center"
            disabled={!state.data?.drawn || packing.job !== null || working}
            onClick={() =>
              void packing.begin(() =>
                answered<Job>(http.POST("/api/studies/{slug}/set/archive", { params: { path: { slug } } })),
              )
            }
          >
            All as one file
          </button>
          {packing.job && (
            <div className="mt-3">
              <ProgressLine job={packing.job} narrow />
            </div>
          )}
          {packing.ended?.state === "done" && <JobFile job={packing.ended} />}
          {packing.ended?.state === "failed" && (
            <p role="alert" className="mt-2 text-sanguine">
              {packing.ended.message}
            </p>
          )}
        </section>
        <div className="min-w-0 flex-1 overflow-y-auto bg-desk px-8 py-6">
          {state.error && (
            <p role="alert" className="text-sanguine">
              {state.error.message}
            </p>
          )}
          <ul aria-label="Drawings of the set" className="grid grid-cols-2 items-end gap-x-7 gap-y-8 xl:grid-cols-3">
            {items.map((item) => (
              <SetPicture
                key={item.file}
                item={item}
                slug={slug}
                chosen={!left.has(item.id)}
                onChoose={(on) =>
                  setLeft((was) => new Set(on ? [...was].filter((id) => id !== item.id) : [...was, item.id]))
                }
              />
            ))}
          </ul>
        </div>
      </div>
    </main>
  );
}

function SetPicture({
  item,
  slug,
  chosen,
  onChoose,
}: {
  item: Item;
  slug: string;
  chosen: boolean;
  onChoose: (on: boolean) => void;
}) {
  return (
    <li className={chosen ? "" : "opacity-50"}>
      {item.small ? (
        <img
          src={item.small}
          alt={`${item.name}, as it is drawn`}
          className="block max-h-[230px] w-full border border-hairline bg-sheet object-contain"
        />
      ) : (
        <div className="flex h-[150px] w-full items-center justify-center border border-dashed border-soft px-6 text-center">
          <span className="quiet">
            {item.problem || (item.stale ? "Drawn before, and changed since" : "Not drawn yet")}
          </span>
        </div>
      )}
      <div className="mt-2 flex items-baseline justify-between gap-3">
        <p className="min-w-0">
          {item.mark && <b className="mr-1.5 font-serif">{item.mark}</b>}
          {item.name}
        </p>
        <OnOff bare label={`${item.name} belongs to the set`} value={chosen} onChange={onChoose} />
      </div>
      <p className="quiet text-xs">
        {item.drawn ? (
          <a
            className="underline underline-offset-4"
            href={`/api/studies/${slug}/set/files/${encodeURIComponent(item.file)}`}
            download
          >
            {item.file}
          </a>
        ) : (
          item.file
        )}
        {item.drawn ? ` · ${(item.bytes / 1e6).toFixed(1)} MB` : ""}
      </p>
    </li>
  );
}
