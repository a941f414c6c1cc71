import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useRef, useState } from "react";
import { toast } from "sonner";

import { answered, http, type Job } from "../api/client";
import { useScreen } from "../desk/screen";
import type { Editing } from "../desk/study";
import { useWriting, WritingLine } from "../out/writing";

/** For which views a change of the look is made. */
export function ForWhom({ editing, bench }: { editing: Editing; bench: "Ink" | "Collage" }) {
  const { everywhere, set } = useScreen();
  const finish = editing.study.document.finishes.find((f) => f.id === editing.saved.finish);
  const rows = [
    [false, "this view"],
    [true, `all in “${finish?.name ?? ""}”`],
  ] as const;
  return (
    <div
      className="mb-4 border-b border-hairline pb-3 text-xs"
      role="group"
      aria-label="For which views a change is made"
    >
      <span className="quiet mr-2">Changes are for</span>
      {rows.map(([all, words]) => (
        <button
          key={words}
          type="button"
          aria-pressed={everywhere[bench] === all}
          className={`plain mr-3 border-b-2 font-semibold ${everywhere[bench] === all ? "border-sanguine" : "border-transparent"}`}
          onClick={() => set({ everywhere: { ...everywhere, [bench]: all } })}
        >
          {words}
        </button>
      ))}
    </div>
  );
}

function Act({
  label,
  about,
  onClick,
  off,
  children,
}: {
  label?: string;
  about?: string;
  onClick: () => void;
  off?: boolean;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className="plain text-xs font-semibold underline decoration-hairline underline-offset-4"
      aria-label={label}
      title={about}
      disabled={off}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

/** The finishes of the study, the one that the view wears among them, and what the view changes of it for itself. */
export function FinishList({ editing }: { editing: Editing }) {
  const { study, saved } = editing;
  const { finishes, views } = study.document;
  const [picked, setPicked] = useState("");
  const [naming, setNaming] = useState<"keep" | "rename" | null>(null);
  const [comparing, setComparing] = useState(false);
  const { variants, set } = useScreen();
  const file = useRef<HTMLInputElement>(null);
  const packing = useWriting(`finish ${study.slug}`);
  const shown = finishes.find((f) => f.id === picked) ?? finishes.find((f) => f.id === saved.finish)!;
  const worn = shown.id === saved.finish;
  const own = study.own ?? [];
  const name = (words: string) => {
    const called = words.trim();
    setNaming(null);
    if (!called) return;
    if (naming === "keep") void editing.act({ do: "keep_finish", label: `Keep finish “${called}”`, name: called });
    else void editing.act({ do: "rename_finish", label: `Finish “${called}”`, finish_id: shown.id, name: called });
  };
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    if (chosen.name.toLowerCase().endsWith(".zip")) {
      const body = new FormData();
      body.append("file", chosen);
      const done = await packing.begin(async () => {
        const answer = await fetch("/api/finishes", { method: "POST", body });
        const said = (await answer.json()) as Job & { message?: string };
        if (!answer.ok) throw new Error(said.message ?? "The finish could not be taken in; try it again.");
        return said;
      });
      if (
        done?.state === "done" &&
        (await editing.act({
          do: "take_finish",
          label: `Take in ${chosen.name}`.slice(0, 120),
          text: String(done.result.text),
        }))
      )
        setPicked("");
      return;
    }
    if (chosen.size > 2_000_000)
      return void toast.error(`“${chosen.name}” is too large for a finish; choose the file that was written as one.`);
    if (
      await editing.act({ do: "take_finish", label: `Take in ${chosen.name}`.slice(0, 120), text: await chosen.text() })
    )
      setPicked("");
  };
  return (
    <section aria-label="Finishes" className="mt-6">
      <h2>Finishes</h2>
      <ul className="mt-1">
        {finishes.map((finish) => {
          const wearing = views.filter((v) => v.finish === finish.id).length;
          return (
            <li key={finish.id} className="row" data-chosen={finish.id === shown.id}>
              <button
                type="button"
                className="plain min-w-0 flex-1 truncate py-1"
                aria-pressed={finish.id === shown.id}
                onClick={() => setPicked(finish.id)}
              >
                {finish.name}
              </button>
              <span className="quiet text-xs whitespace-nowrap">
                {finish.id === saved.finish ? "here" : wearing ? `${wearing} view${wearing > 1 ? "s" : ""}` : ""}
              </span>
            </li>
          );
        })}
      </ul>
      {naming && (
        <input
          autoFocus
          aria-label={naming === "keep" ? "Name of the new finish" : `New name for ${shown.name}`}
          className="field mt-1 w-full"
          defaultValue={naming === "keep" ? "" : shown.name}
          maxLength={100}
          onBlur={() => setNaming(null)}
          onKeyDown={(e) => {
            if (e.key === "Escape") setNaming(null);
            if (e.key === "Enter") name(e.currentTarget.value);
          }}
        />
      )}
      <div className="mt-2 flex flex-wrap gap-x-3 gap-y-1">
        <Act
          off={worn && !own.length}
          about={
            worn ? "Back to the finish as it is, without this view's own changes" : "This view looks as the finish says"
          }
          onClick={() =>
            void editing.act({ do: "lay_finish", label: `Lay “${shown.name}” over`, finish_id: shown.id, view_id: "" })
          }
        >
          Lay over
        </Act>
        <Act
          about="This view in each finish, side by side under the drawing"
          onClick={() => set({ variants: !variants })}
        >
          {variants ? "Take the row down" : "Hang in a row"}
        </Act>
        <Act about="The look of this view as a finish of its own" onClick={() => setNaming("keep")}>
          Keep as …
        </Act>
        <Act onClick={() => setNaming("rename")}>Rename</Act>
        {!worn && <Act onClick={() => setComparing(!comparing)}>Compare</Act>}
        <Act
          off={views.some((v) => v.finish === shown.id)}
          about="A finish that no view wears"
          onClick={() =>
            void editing.act({ do: "remove_finish", label: `Remove “${shown.name}”`, finish_id: shown.id })
          }
        >
          Remove
        </Act>
        <a
          className="text-xs font-semibold underline decoration-hairline underline-offset-4"
          href={`/api/studies/${study.slug}/finishes/${shown.id}/file`}
          download
        >
          Write to a file
        </a>
        <Act
          about="The finish with the pictures and faces that it shows, as one file"
          off={packing.job !== null}
          onClick={() =>
            void packing.begin(() =>
              answered<Job>(
                http.POST("/api/studies/{slug}/finishes/{finish_id}/pack", {
                  params: { path: { slug: study.slug, finish_id: shown.id! } },
                }),
              ),
            )
          }
        >
          With its stock
        </Act>
        <Act onClick={() => file.current?.click()}>Take in a file …</Act>
        <input
          ref={file}
          type="file"
          accept=".json,.zip"
          className="hidden"
          aria-label="Finish file"
          onChange={(e) => {
            void take(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {packing.ended?.result.text === undefined && <WritingLine writing={packing} />}
      {comparing && !worn && <Compared editing={editing} finish={shown.id} />}
      {own.length > 0 && (
        <>
          <h3 className="mt-4 text-xs font-semibold">This view's own</h3>
          <ul>
            {own.map((change) => (
              <li key={change.path.join("/")} className="py-1 text-xs">
                <span className="block">{change.what}</span>
                <span className="quiet block">
                  {change.view === "there"
                    ? "only here"
                    : change.view === "not there"
                      ? "left out here"
                      : `${change.view}, not ${change.finish}`}
                </span>
                <span className="flex gap-3">
                  <Act
                    label={`give back: ${change.what}`}
                    onClick={() =>
                      void editing.act({
                        do: "give_back",
                        label: `Give back: ${change.what}`.slice(0, 120),
                        path: change.path,
                      })
                    }
                  >
                    give back
                  </Act>
                  <Act
                    label={`drop: ${change.what}`}
                    onClick={() =>
                      void editing.act({
                        do: "drop_changes",
                        label: `Drop: ${change.what}`.slice(0, 120),
                        path: change.path,
                      })
                    }
                  >
                    drop
                  </Act>
                </span>
              </li>
            ))}
          </ul>
          {own.length > 1 && (
            <div className="mt-1 flex gap-3">
              <Act
                onClick={() => void editing.act({ do: "give_back", label: "Give all back to the finish", path: [] })}
              >
                Give all back
              </Act>
              <Act onClick={() => void editing.act({ do: "drop_changes", label: "Drop all own changes", path: [] })}>
                Drop all
              </Act>
            </div>
          )}
        </>
      )}
    </section>
  );
}

/** What would change if the finish were laid over the view. */
function Compared({ editing, finish }: { editing: Editing; finish: string }) {
  const { slug, revision } = editing.study;
  const rows = useQuery({
    queryKey: ["finish differences", slug, revision, finish],
    queryFn: () =>
      answered(
        http.GET("/api/studies/{slug}/finishes/{first}/differences/{second}", {
          params: { path: { slug, first: "desk", second: finish } },
        }),
      ),
  }).data;
  if (!rows) return null;
  if (!rows.length) return <p className="quiet mt-2 text-xs">It is the same as what this view shows.</p>;
  return (
    <ul className="mt-2 text-xs" aria-label="What it would change">
      {rows.map((row) => (
        <li key={row.what} className="py-0.5">
          {row.what}{" "}
          <span className="quiet">
            {row.first} → {row.second}
          </span>
        </li>
      ))}
    </ul>
  );
}
