import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Tabs } from "radix-ui";
import { type ReactNode, useEffect, useState } from "react";

import { answered, http, Refused, type Changed, type StockItem, type StudyRow } from "../api/client";
import { CollageList, CollageSettings } from "../benches/CollageBench";
import { InkList, InkSettings } from "../benches/ink/InkBench";
import { ModelList, ModelRoom, ModelSettings } from "../benches/ModelBench";
import { SheetList, SheetSettings } from "../benches/SheetBench";
import { ViewList, ViewRoom, ViewSettings } from "../benches/ViewBench";
import { CALLED as MARK_NAMES, KINDS as MARK_KINDS, useMarking } from "../benches/ink/marks/marking";
import { modelActions } from "../benches/model/actions";
import { useChoice } from "../benches/model/choice";
import { BoardStage } from "../benches/sheet/board/BoardStage";
import { useBoard } from "../benches/sheet/board/boards";
import { useNoteForms, useNoting, writeNote } from "../benches/sheet/noting";
import { usePouring } from "../benches/ink/pouring";
import { useParts } from "../benches/model/parts";
import { goTo } from "../shared/address";
import { Bounded } from "../shared/Bounded";
import { Bring } from "../studies/Bring";
import { useBegun } from "./begin";
import { BenchLine } from "./BenchLine";
import { type Action, Finder } from "./Finder";
import { meant, useSingleKeys } from "./keys";
import { KeySheet } from "./KeySheet";
import { type Bench, BENCHES, useScreen } from "./screen";
import { Shelf } from "./Shelf";
import { Stage } from "./Stage";
import { useSending } from "./edits";
import { type Editing, useChoices, useDesk, useStudy } from "./study";

/** One study on the desk: five benches around one drawing. */
export default function DeskPage({ slug }: { slug: string }) {
  const { editing, error } = useStudy(slug);
  const begun = useBegun(slug);
  if (error) return <Closed slug={slug} error={error} />;
  if (!editing || !begun) return <p className="quiet p-8">Laying out the desk …</p>;
  return <Desk editing={editing} />;
}

/** A study that cannot be shown: why, and what can be done. One that is only unreadable as it is now is undone from here. */
function Closed({ slug, error }: { slug: string; error: Error }) {
  const queries = useQueryClient();
  const [said, setSaid] = useState("");
  const left = error instanceof Refused ? error.unreadable : undefined;
  const mending = left?.mending ?? false;
  useEffect(() => {
    // Looked at again until it is put right, or cannot be.
    const again = mending
      ? setInterval(() => void queries.invalidateQueries({ queryKey: ["study", slug] }), 1500)
      : undefined;
    return () => clearInterval(again);
  }, [mending, queries, slug]);
  const rows = useQuery({
    queryKey: ["studies"],
    enabled: !!left?.lost && !mending,
    queryFn: () => answered<StudyRow[]>(http.GET("/api/studies")),
  });
  const model = rows.data?.find((row) => row.slug === slug)?.model;
  const undo = async () => {
    try {
      const told = await answered<Changed>(
        http.POST("/api/studies/{slug}/undo", { params: { path: { slug } }, body: { base: left!.revision } }),
      );
      queries.setQueryData(["study", slug], told.study);
    } catch (fault) {
      setSaid(fault instanceof Refused ? fault.message : "");
      void queries.invalidateQueries({ queryKey: ["study", slug] });
    }
  };
  return (
    <main className="p-10">
      <h1 className="text-[22px]">
        {mending
          ? "This study is being put right"
          : left
            ? "This study cannot be shown as it is"
            : "This study cannot be opened"}
      </h1>
      <p role="alert" className="my-3">
        {said || error.message}
      </p>
      <div className="flex gap-3">
        {left?.undo && (
          <button type="button" className="act" onClick={() => void undo()}>
            Undo: {left.undo}
          </button>
        )}
        <button type="button" className="line-act" onClick={() => goTo("/")}>
          To all studies
        </button>
      </div>
      {left?.lost && !mending && model && (
        <div className="mt-8 max-w-[420px]">
          <Bring study={{ slug, model }} onDone={() => void queries.invalidateQueries({ queryKey: ["study", slug] })} />
        </div>
      )}
    </main>
  );
}

function Desk({ editing }: { editing: Editing }) {
  const { study } = editing;
  const { bench, chosen, go, viewStage, set } = useScreen();
  const unheard = useSending((s) => s.unheard);
  const queries = useQueryClient();
  const [stoppedAt, setStoppedAt] = useState<number | null>(null);
  const stopped = stoppedAt === study.revision;
  const desk = useDesk(study.slug, study.revision, stopped);
  const deskNow = desk.data;
  const { data: parts } = useParts(study);
  const choices = useChoices();
  const noteForms = useNoteForms();
  useChoice((s) => s.chosen); // the actions go by it
  const single = useSingleKeys((s) => s.on);

  useEffect(() => {
    document.title = `${study.document.name} · Warm Graphite`;
  }, [study.document.name]);

  const actions: Action[] = [
    ...BENCHES.map((name, i) => ({ name: `Go to the ${name} bench`, keys: String(i + 1), run: () => go(name) })),
    {
      name: study.undo ? `Undo: ${study.undo}` : "Undo",
      calls: "Undo",
      keys: "Ctrl Z",
      run: () => void editing.step(true),
      off: !study.undo,
    },
    {
      name: study.redo ? `Redo: ${study.redo}` : "Redo",
      calls: "Redo",
      keys: "Ctrl Shift Z",
      also: "Ctrl Y",
      run: () => void editing.step(false),
      off: !study.redo,
    },
    { name: "Show the whole drawing", keys: "0", run: () => useScreen.getState().look(1, [0, 0]) },
    {
      name: "Save the view on the desk again",
      keys: "Ctrl S",
      run: () => void editing.act({ do: "save_view", label: "Save view" }),
    },
    {
      name: "View bench: show the drawing or the model",
      keys: "M",
      run: () => set({ viewStage: viewStage === "drawing" ? "model" : "drawing" }),
    },
    { name: "Export the drawing", keys: "E", run: () => go("Sheet") },
    ...study.document.views.map((v) => ({
      name: `Open view ${v.mark}: ${v.view.name}`,
      keys: `Alt ${v.mark}`,
      run: () => void editing.act({ do: "open_view", label: "Open view", view_id: v.id }),
    })),
    ...(bench === "Model" ? modelActions(editing, parts) : []),
    ...MARK_KINDS.map((kind) => ({
      name: `Draw a mark: ${MARK_NAMES[kind].toLowerCase()}`,
      keys: "",
      run: () => (go("Ink"), useMarking.getState().take(kind)),
    })),
    ...(noteForms?.kinds ?? []).map((form) => ({
      name: `Write: ${form.label.toLowerCase()}`,
      keys: "",
      run: () => {
        go("Sheet");
        set({ board: "" });
        if (form.most) useNoting.getState().take(form);
        else void writeNote(editing, form, []).then((id) => id && useScreen.getState().choose({ kind: "written", id }));
      },
    })),
    ...(study.document.boards ?? []).map((b) => ({
      name: `Open the board ${b.name}`,
      keys: "",
      run: () => (go("Sheet"), set({ board: b.id!, page: 1 })),
    })),
    { name: "Hang this view in each finish, in a row", keys: "", run: () => (go("Collage"), set({ variants: true })) },
    ...(choices?.stock ?? []).map((item) => ({
      name: `Take from stock: ${item.label.toLowerCase()}`,
      keys: "",
      // The bench lays back what was in the hand as it opens.
      run: () => (go("Collage"), setTimeout(() => usePouring.getState().takeStock(item as StockItem))),
    })),
    { name: "All keys", keys: "", run: () => set({ keys: true }) },
    { name: "All studies", keys: "", run: () => goTo("/") },
  ].filter((a, i, all) => !a.keys || all.findIndex((b) => b.keys === a.keys) === i || !(a.keys = ""));

  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      if (event.defaultPrevented) return; // it was for what has the focus
      const found = meant(event, {
        actions,
        go,
        single,
        find: () => set({ finding: true }),
        show: () => set({ keys: true }),
      });
      if (!found) return;
      if (!found.keeps) event.preventDefault();
      found.run();
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  });

  const stop = () => {
    // From now on the desk is only looked at: asking as before would set a new job to work where this one had not begun.
    setStoppedAt(study.revision);
    if (deskNow?.job) void http.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: deskNow.job.id } } });
  };
  const goOn = () => {
    setStoppedAt(null);
    void http
      .POST("/api/studies/{slug}/desk", { params: { path: { slug: study.slug }, query: { again: true } } })
      .finally(() => void queries.invalidateQueries({ queryKey: ["desk", study.slug] }));
  };

  const list: Record<Bench, ReactNode> = {
    Model: <ModelList editing={editing} />,
    View: <ViewList editing={editing} />,
    Ink: <InkList editing={editing} />,
    Collage: <CollageList editing={editing} desk={deskNow} />,
    Sheet: <SheetList editing={editing} />,
  };
  const settings: Record<Bench, ReactNode> = {
    Model: <ModelSettings editing={editing} />,
    View: <ViewSettings editing={editing} desk={deskNow} />,
    Ink: <InkSettings editing={editing} />,
    Collage: <CollageSettings editing={editing} desk={deskNow} />,
    Sheet: <SheetSettings editing={editing} />,
  };
  const board = useBoard(editing);
  const inModel = bench === "Model" || (bench === "View" && viewStage === "model");

  return (
    <Tabs.Root
      value={bench}
      onValueChange={(v) => go(v as Bench)}
      activationMode="manual"
      className="flex h-full flex-col"
    >
      <header className="relative flex h-14 shrink-0 items-center gap-6 border-b border-hairline px-5">
        <div className="w-56 shrink-0 leading-tight">
          <button type="button" className="plain block" onClick={() => goTo("/")} title="All studies">
            <span className="block font-serif text-[17px] font-semibold">Warm Graphite</span>
          </button>
          <h1 className="quiet truncate font-sans text-[12.5px] font-normal">{study.document.name}</h1>
        </div>
        <BenchLine />
        {unheard > 0 && (
          <p
            role="alert"
            className="absolute top-full left-1/2 z-20 -translate-x-1/2 border border-t-0 border-sanguine bg-sheet px-4 py-2 text-xs font-semibold whitespace-nowrap"
          >
            The application does not answer. {unheard === 1 ? "One change is" : `${unheard} changes are`} kept here and
            sent again until it does; keep this page open.
          </p>
        )}
        <div className="flex shrink-0 items-center gap-4">
          <button
            type="button"
            className="plain quiet"
            title="Find an action  ( . )"
            onClick={() => set({ finding: true })}
          >
            Find …
          </button>
          <button type="button" className="plain quiet" title="All keys  ( ? )" onClick={() => set({ keys: true })}>
            Keys
          </button>
          <button
            type="button"
            className="plain quiet"
            disabled={!study.undo}
            title={study.undo ? `Undo: ${study.undo}  (Ctrl Z)` : "Nothing to undo"}
            onClick={() => void editing.step(true)}
          >
            Undo
          </button>
          <button
            type="button"
            className="plain quiet"
            disabled={!study.redo}
            title={study.redo ? `Redo: ${study.redo}  (Ctrl Shift Z or Ctrl Y)` : "Nothing to redo"}
            onClick={() => void editing.step(false)}
          >
            Redo
          </button>
          <button type="button" className={bench === "Sheet" ? "line-act" : "act"} onClick={() => go("Sheet")}>
            Export…
          </button>
        </div>
      </header>
      <Tabs.Content value={bench} forceMount className="flex min-h-0 flex-1 outline-none" tabIndex={-1}>
        <aside
          aria-label={`${bench}: list`}
          className="w-[218px] shrink-0 overflow-x-hidden overflow-y-auto border-r border-hairline px-4 py-4 2xl:w-[280px]"
          tabIndex={0}
        >
          <Bounded key={bench} what="This list">
            {list[bench]}
          </Bounded>
        </aside>
        <main className="relative min-w-0 flex-1" aria-label={inModel ? "Model" : "Drawing"}>
          {/* The drawing stays where it is when the bench is changed: picture, place and what is selected of it. */}
          <Bounded
            key={inModel ? bench : bench === "Sheet" && board ? "board" : "drawing"}
            what={inModel ? "The model" : "The drawing"}
          >
            {bench === "Model" ? (
              <ModelRoom editing={editing} />
            ) : bench === "View" && viewStage === "model" ? (
              <ViewRoom editing={editing} desk={deskNow} />
            ) : bench === "Sheet" && board ? (
              <BoardStage key={board.id} editing={editing} board={board} />
            ) : (
              <Stage editing={editing} desk={deskNow} stopped={stopped} onStop={stop} onGoOn={goOn} />
            )}
          </Bounded>
          {bench === "View" && (
            <div
              className="absolute top-2.5 left-4 flex gap-4 text-xs font-semibold"
              role="group"
              aria-label="What lies in the middle"
            >
              {(["drawing", "model"] as const).map((what) => (
                <button
                  key={what}
                  type="button"
                  aria-pressed={viewStage === what}
                  className={`plain border-b-2 ${viewStage === what ? "border-sanguine" : "border-transparent"}`}
                  onClick={() => set({ viewStage: what })}
                >
                  {what === "drawing" ? "The drawing" : "Set up in the model"}
                </button>
              ))}
            </div>
          )}
        </main>
        <aside
          aria-label={`${bench}: settings`}
          className="w-[264px] shrink-0 overflow-x-hidden overflow-y-auto border-l border-hairline px-5 py-4 2xl:w-[320px]"
          tabIndex={0}
        >
          <Bounded key={`${bench} ${JSON.stringify(chosen[bench])}`} what="This form">
            {settings[bench]}
          </Bounded>
        </aside>
      </Tabs.Content>
      {bench !== "Model" && !(bench === "Sheet" && board) && (
        <Bounded what="The shelf">
          <Shelf editing={editing} desk={deskNow} />
        </Bounded>
      )}
      <Finder actions={actions} />
      <KeySheet
        actions={
          bench === "Model"
            ? actions
            : [
                ...actions,
                ...modelActions(editing, parts).map((a) => ({
                  ...a,
                  calls: `${a.calls ?? a.name}, at the Model bench`,
                })),
              ]
        }
      />
    </Tabs.Root>
  );
}
