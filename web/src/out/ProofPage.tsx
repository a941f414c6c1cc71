import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { answered, type Board, http, type PlacedDrawing, type PrintPaper, type Proof } from "../api/client";
import { useScreen } from "../desk/screen";
import { at, type Editing, useChoices, useStudy } from "../desk/study";
import { goTo } from "../shared/address";
import { OnOff } from "../shared/controls";
import { isOpen, useJob, useStoppedOnLeaving } from "../shared/jobs";
import { ProgressLine } from "../shared/ProgressLine";
import { blackOf, stronger } from "./lifting";
import { ScreenMeasure } from "./ScreenMeasure";
import { useScreenSize } from "./screenSize";

/** The drawing on the desk, or a page of a board, as it will look on paper, at its own size, with what will fill in. */
export default function ProofPage({ slug, board: id, page }: { slug: string; board?: string; page: number }) {
  const { editing, error } = useStudy(slug);
  if (error)
    return (
      <p role="alert" className="p-8 text-sanguine">
        {error.message}
      </p>
    );
  if (!editing) return <p className="quiet p-8">Laying out the proof …</p>;
  const board = (editing.study.document.boards ?? []).find((b) => b.id === id);
  if (id && !board)
    return (
      <p className="p-8">
        This board is not in the study any more.{" "}
        <button type="button" className="plain underline underline-offset-4" onClick={() => goTo(`/study/${slug}`)}>
          To the desk
        </button>
      </p>
    );
  return <ProofTable editing={editing} board={board} page={page} />;
}

/** What fills in of a page, or of a drawing on it, as shares of it now and after a lift that opens it. */
type Filling = { share: number; lift: number; black: number; after: number };
type Found = Filling & { parts: Record<string, Filling> };

/** The share of a drawing below which nothing is worth lifting. */
const NOTHING = 0.0002;

function ProofTable({ editing, board, page }: { editing: Editing; board?: Board; page: number }) {
  const { study } = editing;
  const { slug } = study;
  const [paper, setPaper] = useState("uncoated");
  const [blackOnly, setBlackOnly] = useState(false);
  const [ownPaper, setOwnPaper] = useState<boolean | null>(null);
  const [marked, setMarked] = useState(true);
  const [whole, setWhole] = useState(true);
  const [measuring, setMeasuring] = useState(false);
  const screen = useScreenSize();
  const papers = useQuery({
    queryKey: ["print-papers"],
    staleTime: Infinity,
    queryFn: () => answered<PrintPaper[]>(http.GET("/api/print-papers")),
  });
  const proof = useQuery({
    queryKey: ["proof", slug, board?.id, page, study.revision, paper, blackOnly, ownPaper],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answered<Proof>(
        http.POST("/api/studies/{slug}/proofs", {
          params: { path: { slug } },
          body: {
            paper: paper as "uncoated",
            black_only: blackOnly,
            own_paper: ownPaper,
            board: board?.id ?? "",
            page,
          },
        }),
      ),
  });
  const begun = proof.data?.job;
  const followed = useJob(isOpen(begun) ? begun!.id : undefined);
  const job = isOpen(begun) ? (followed.data ?? begun) : begun;
  useStoppedOnLeaving(job);
  const done = job?.state === "done" && !proof.isPlaceholderData;
  const found = job?.state === "done" ? (job.result as unknown as Found) : undefined;
  const { width = 420, height = 297 } = board ? board.page! : study.document.desk.view.frame!;
  const lifted = proof.data?.lift ?? null;
  const shown = papers.data?.find((p) => p.name === paper);
  const here = (board?.drawings ?? []).filter((d) => (d.page ?? 1) === page);
  const filling = here.filter((d) => (found?.parts[d.id!]?.share ?? 0) > NOTHING);
  const worth = done && found !== undefined && (found.share > NOTHING || filling.length > 0);
  // While the next print is on its way the one before lies there, pale.
  const sheet = `${board?.id ?? ""} ${page}`;
  const [last, setLast] = useState({ sheet, id: 0 });
  if (done && job && (last.id !== job.id || last.sheet !== sheet)) setLast({ sheet, id: job.id });
  const print = done ? job.id : last.sheet === sheet ? last.id : 0;
  const base = `/api/studies/${slug}/proofs/${print}`;
  const lift = (share: number, black: number) =>
    void editing.act({ do: "lift", label: share ? "Lift for print" : "Take the lift away", lift: share, black });
  const liftOn = (rows: readonly PlacedDrawing[], label: string, to: (row: PlacedDrawing) => [number, number]) =>
    void editing.act({
      do: "boards",
      label,
      changes: rows.flatMap((d) =>
        ["lift", "black"].map((field, k) => at(["boards", board!.id!, "drawings", d.id!, field], to(d)[k])),
      ),
    });
  const lifts = useChoices()?.lifts ?? [];
  const more = (to: Filling, now: number | null | undefined, black: number | null | undefined): [number, number] => {
    const next = Math.max(to.lift, now ? stronger(now, lifts) : 0);
    return [next, Math.max(to.black, black ?? 0, now ? blackOf(next, lifts) : 0)];
  };
  const liftIt = () =>
    board
      ? liftOn(filling, "Lift for print", (d) => more(found!.parts[d.id!]!, d.lift, d.black))
      : lift(...more(found!, lifted, proof.data?.black));
  const takeAway = () =>
    board
      ? liftOn(
          here.filter((d) => d.lift),
          "Take the lift away",
          () => [0, 0],
        )
      : lift(0, 0);
  const back = () => {
    if (board) {
      useScreen.getState().go("Sheet");
      useScreen.getState().set({ board: board.id!, page });
    }
    goTo(`/study/${slug}`);
  };
  const named = (row: PlacedDrawing) => {
    const view = study.document.views.find((v) => v.id === row.view);
    return view ? `${view.mark ?? ""} ${view.view.name}`.trim() : row.id!;
  };
  return (
    <main className="flex h-full flex-col">
      <header className="flex items-baseline gap-6 border-b border-hairline px-6 py-4">
        <button type="button" className="plain underline underline-offset-4" onClick={back}>
          {board ? "To the board" : "To the desk"}
        </button>
        <h1 className="text-[22px]">
          Proof of{" "}
          {board ? board.name + ((board.pages ?? 1) > 1 ? `, page ${page}` : "") : study.document.desk.view.name}
        </h1>
        {board && (board.pages ?? 1) > 1 && (
          <nav aria-label="Pages" className="flex gap-1">
            {Array.from({ length: board.pages! }, (_, k) => k + 1).map((n) => (
              <button
                key={n}
                type="button"
                aria-current={n === page ? "page" : undefined}
                className={`plain px-2 tabular-nums ${n === page ? "border-b-2 border-sanguine font-semibold" : ""}`}
                onClick={() => goTo(`/study/${slug}/proof/${board.id}/${n}`)}
              >
                {n}
              </button>
            ))}
          </nav>
        )}
        <p className="quiet ml-auto">
          {width} × {height} mm
        </p>
      </header>
      <div className="flex min-h-0 flex-1">
        <section
          aria-label="How it is printed"
          className="w-[280px] shrink-0 overflow-y-auto border-r border-hairline px-6 py-5"
        >
          <h2>Paper</h2>
          <div role="radiogroup" aria-label="Printed on" className="mt-2 grid grid-cols-3 gap-3">
            {papers.data?.map((p) => (
              <button
                key={p.name}
                type="button"
                role="radio"
                aria-checked={p.name === paper}
                className="plain"
                onClick={() => setPaper(p.name)}
              >
                <PaperSwatch paper={p} chosen={p.name === paper} />
                <span className={`mt-1 block text-xs ${p.name === paper ? "font-semibold text-sanguine" : ""}`}>
                  {p.label}
                </span>
              </button>
            ))}
          </div>
          {shown && (
            <p className="quiet py-2 text-xs">
              {shown.about} Dots of one half grow by {Math.round(shown.gain * 100)} %; it bears{" "}
              {Math.round(shown.limit * 100)} % of ink; gaps below {shown.gap.toFixed(2)} mm close.
            </p>
          )}
          <OnOff label="Black ink only" value={blackOnly} onChange={setBlackOnly} />
          <OnOff
            label="Print its own paper"
            value={ownPaper ?? proof.data?.own_paper ?? false}
            onChange={setOwnPaper}
          />
          <OnOff label="Mark what fills in" value={marked} onChange={setMarked} />
          <OnOff label="At its own size" value={!whole} onChange={(v) => setWhole(!v)} />
          {!whole && (
            <p className="quiet py-1 text-xs">
              {screen.measured
                ? "By this screen as it was measured."
                : "This screen is not measured; its size is a guess."}{" "}
              <button type="button" className="plain underline underline-offset-4" onClick={() => setMeasuring(true)}>
                Measure it
              </button>
            </p>
          )}
          <h2 className="mt-7">What fills in</h2>
          <div aria-live="polite">
            {job && isOpen(job) && (
              <div className="mt-2">
                <ProgressLine job={job} narrow />
              </div>
            )}
            {job?.state === "failed" && (
              <p role="alert" className="mt-2 text-sanguine">
                {job.message}
              </p>
            )}
            {job?.state === "cancelled" && (
              <p className="quiet mt-2">
                It was stopped.{" "}
                <button type="button" className="plain underline" onClick={() => void proof.refetch()}>
                  Print it again
                </button>
              </p>
            )}
            {proof.error && (
              <p role="alert" className="mt-2 text-sanguine">
                {proof.error.message}
              </p>
            )}
            {done && found && (
              <p className="py-2">
                {worth
                  ? `${percent(found.share)} of this ${board ? "page" : "drawing"} closes up or cannot be told in the dark.`
                  : "Nothing: on this paper all of it stays open."}
              </p>
            )}
          </div>
          {worth && filling.length > 0 && (
            <ul aria-label="Drawings that fill in" className="mb-2 text-xs">
              {filling.map((d) => (
                <li key={d.id} className="flex justify-between gap-3 border-t border-hairline py-1">
                  <span className="min-w-0 truncate">{named(d)}</span>
                  <span className="shrink-0 tabular-nums">{percent(found.parts[d.id!]!.share)}</span>
                </li>
              ))}
            </ul>
          )}
          {worth && (!board || filling.length > 0) && (
            <>
              <button type="button" className="act w-full text-center" onClick={liftIt}>
                {lifted === null ? "Lift it" : "Lift it more"}
              </button>
              <p className="quiet py-1 text-xs">
                {board
                  ? "The darks of these drawings are opened and their pens thinner, on this board alone"
                  : "Its darks are opened and its pens thinner, for this view alone, by sheets that can be taken away"}
                ; of {board ? "the page" : "its tones"} {found.after < 0.001 ? "" : "about "}
                {percent(found.after)} is left then.
              </p>
            </>
          )}
          {lifted !== null && (
            <button type="button" className="line-act mt-2 w-full text-center" onClick={takeAway}>
              Take the lift away
            </button>
          )}
        </section>
        <div className="min-w-0 flex-1 overflow-auto bg-desk p-6">
          {print ? (
            <div
              className={`relative mx-auto ${whole ? "" : "w-max"}`}
              style={
                whole
                  ? { aspectRatio: `${width} / ${height}`, maxHeight: "100%", maxWidth: "100%" }
                  : { width: width * screen.perMm, height: height * screen.perMm }
              }
            >
              <img
                src={`${base}/looks.jpg`}
                alt={done ? "The drawing as it will look on paper" : "The print before"}
                className={`absolute inset-0 h-full w-full ${done ? "" : "opacity-45"}`}
              />
              {done && marked && worth && (
                <img src={`${base}/marks.png`} alt="What fills in, marked" className="absolute inset-0 h-full w-full" />
              )}
              {!done && <p className="absolute left-4 top-3 bg-sheet px-2 py-1 text-xs">The print before</p>}
            </div>
          ) : (
            <p className="quiet">
              {proof.error || job?.state === "failed"
                ? ""
                : job?.state === "cancelled"
                  ? "There is no print of this yet."
                  : "The print is on its way."}
            </p>
          )}
        </div>
      </div>
      {measuring && <ScreenMeasure open onClose={() => setMeasuring(false)} />}
    </main>
  );
}

const percent = (share: number) => (share < 0.001 ? "less than 0.1 %" : `${(100 * share).toFixed(1)} %`);

/** A paper with a ramp of five tones on it, as dark as they come out. */
function PaperSwatch({ paper, chosen }: { paper: PrintPaper; chosen: boolean }) {
  return (
    <svg viewBox="0 0 60 40" className="block w-full" aria-hidden>
      <rect
        x="0.5"
        y="0.5"
        width="59"
        height="39"
        fill={paper.white}
        stroke={chosen ? "var(--color-sanguine)" : "var(--color-hairline)"}
        strokeWidth={chosen ? 2 : 1}
      />
      {[0.2, 0.4, 0.6, 0.8, 1].map((dots, k) => (
        <rect
          key={dots}
          x={7 + k * 9.4}
          y="9"
          width="8"
          height="22"
          fill="#2a2622"
          opacity={Math.min(1, dots + 4 * paper.gain * dots * (1 - dots)) * (1 - paper.gain * 0.3)}
        />
      ))}
    </svg>
  );
}
