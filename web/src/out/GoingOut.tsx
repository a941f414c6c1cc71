import { useState } from "react";

import { answered, type Board, http, type Job } from "../api/client";
import { useScreen } from "../desk/screen";
import { type Editing } from "../desk/study";
import { goTo } from "../shared/address";
import { Choice, NumberField } from "../shared/controls";
import { OutForm, useAsked, useFormats } from "./OutForm";
import { useWriting, WritingLine } from "./writing";

/** The ways out of the Sheet bench: this drawing or board as a file, its proof, the set, its passes, the whole study. */
export function GoingOut({ editing, board }: { editing: Editing; board?: Board }) {
  const { slug } = editing.study;
  const shown = useScreen((s) => s.page);
  return (
    <>
      {board ? (
        <BoardOut editing={editing} board={board} />
      ) : (
        <ViewOut key={editing.study.document.desk.view_id} editing={editing} />
      )}
      <section aria-label="Before and after" className="mt-6">
        <div className="grid gap-2">
          <button
            type="button"
            className="line-act text-center"
            onClick={() =>
              goTo(`/study/${slug}/proof${board ? `/${board.id}/${Math.min(shown, board.pages ?? 1)}` : ""}`)
            }
          >
            See the proof
          </button>
          <button type="button" className="line-act text-center" onClick={() => goTo(`/study/${slug}/set`)}>
            The whole set
          </button>
        </div>
      </section>
      {!board && <Passes editing={editing} />}
      <Pack editing={editing} />
    </>
  );
}

function ViewOut({ editing }: { editing: Editing }) {
  const { slug, document, look } = editing.study;
  const frame = document.desk.view.frame!;
  const [asked, change] = useAsked(`view ${slug}`, frame.resolution ?? 150);
  const label = useFormats().find((f) => f.ending === asked.format)?.label ?? asked.format.toUpperCase();
  const writing = useWriting(`view ${slug} ${document.desk.view_id}`);
  const pixels = [frame.width ?? 420, frame.height ?? 297].map((mm) =>
    Math.round((mm / 25.4) * (asked.out.resolution ?? 150)),
  );
  return (
    <section aria-label="Export" className="mt-8">
      <h2>Export</h2>
      <OutForm
        asked={asked}
        change={change}
        traces={(look.traces ?? []).filter((t) => t.on ?? true).map((t) => t.name)}
      />
      <p className="quiet py-2 text-xs">
        {frame.width} × {frame.height} mm · {pixels[0]!.toLocaleString("en")} × {pixels[1]!.toLocaleString("en")} pixels
      </p>
      <button
        type="button"
        className="act w-full text-center"
        disabled={writing.job !== null}
        onClick={() =>
          void writing.begin(() =>
            answered<Job>(http.POST("/api/studies/{slug}/exports", { params: { path: { slug } }, body: asked })),
          )
        }
      >
        Export {label}
      </button>
      <WritingLine writing={writing} />
    </section>
  );
}

function BoardOut({ editing, board }: { editing: Editing; board: Board }) {
  const { slug } = editing.study;
  const shown = useScreen((s) => s.page);
  const [asked, change] = useAsked(`board ${slug}`, 150);
  const format = useFormats().find((f) => f.ending === asked.format);
  const writing = useWriting(`board ${slug} ${board.id}`);
  const page = Math.min(shown, board.pages ?? 1);
  return (
    <section aria-label="Export" className="mt-8">
      <h2>Export</h2>
      <OutForm asked={asked} change={change} paper={false} />
      <p className="quiet py-2 text-xs">
        {board.page!.width} × {board.page!.height} mm
        {(board.pages ?? 1) > 1 ? ` · ${format?.many ? `all ${board.pages} pages` : `page ${page}`}` : ""}
      </p>
      <button
        type="button"
        className="act w-full text-center"
        disabled={writing.job !== null}
        onClick={() =>
          void writing.begin(() =>
            answered<Job>(
              http.POST("/api/studies/{slug}/boards/{board_id}/exports", {
                params: { path: { slug, board_id: board.id! } },
                body: { ...asked, page },
              }),
            ),
          )
        }
      >
        Export {format?.label ?? asked.format.toUpperCase()}
      </button>
      <WritingLine writing={writing} />
      <p className="mt-3 text-xs">
        <a
          className="underline underline-offset-4"
          href={`/api/studies/${slug}/boards/${board.id}/file`}
          download={`${board.name}.json`}
        >
          The board as a file
        </a>
        <span className="quiet">, with its drawings in it</span>
      </p>
    </section>
  );
}

/** All passes of the view as files of one size. */
function Passes({ editing }: { editing: Editing }) {
  const { slug, document } = editing.study;
  const [pictures, setPictures] = useState<"png" | "tiff">("png");
  const [resolution, setResolution] = useState(document.desk.view.frame!.resolution ?? 150);
  const writing = useWriting(`passes ${slug} ${document.desk.view_id}`);
  return (
    <section aria-label="Passes" className="mt-8">
      <h2>All passes</h2>
      <p className="quiet py-1 text-xs">
        Lines, cut, shadow, tones, depth, normals and regions of this view, each a file of one size.
      </p>
      <Choice
        label="Pictures as"
        value={pictures}
        options={[
          { value: "png", label: "PNG" },
          { value: "tiff", label: "TIFF" },
        ]}
        onChange={setPictures}
      />
      <NumberField
        label="Resolution"
        unit="dpi"
        digits={0}
        min={30}
        max={600}
        value={resolution}
        onChange={setResolution}
      />
      <button
        type="button"
        className="line-act mt-2 w-full text-center"
        disabled={writing.job !== null}
        onClick={() =>
          void writing.begin(() =>
            answered<Job>(
              http.POST("/api/studies/{slug}/bundles", { params: { path: { slug } }, body: { resolution, pictures } }),
            ),
          )
        }
      >
        Write the passes
      </button>
      <WritingLine writing={writing} />
    </section>
  );
}

/** The whole study as one file for another machine: its model, its views and finishes, and the pictures that they show. */
function Pack({ editing }: { editing: Editing }) {
  const writing = useWriting(`pack ${editing.study.slug}`);
  return (
    <section aria-label="Pack" className="mt-8">
      <h2>Pack the study</h2>
      <p className="quiet py-1 text-xs">
        One file for another machine: the model, all views and finishes, and the pictures they show.
      </p>
      <button
        type="button"
        className="line-act w-full text-center"
        disabled={writing.job !== null}
        onClick={() =>
          void writing.begin(() =>
            answered<Job>(http.POST("/api/studies/{slug}/archive", { params: { path: { slug: editing.study.slug } } })),
          )
        }
      >
        Pack it
      </button>
      <WritingLine writing={writing} />
    </section>
  );
}
