import type { Desk } from "../api/client";
import type { Editing } from "../desk/study";
import { useScreen } from "../desk/screen";
import { FigureList } from "./collage/figures/FigureList";
import { FigureSettings } from "./collage/figures/FigureSettings";
import { TraceSettings } from "./collage/TraceSettings";
import { RegionList } from "./collage/RegionList";
import { StockList } from "./collage/StockList";
import { FinishList } from "./FinishList";

/** What is chosen: a figure, or a trace of the shelf. */
export function CollageSettings({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const id = useScreen((s) => (s.chosen.Collage?.kind === "figure" ? s.chosen.Collage.id : null));
  const figure = (editing.study.document.figures ?? []).find((f) => f.id === id);
  return figure ? (
    <FigureSettings key={figure.id} editing={editing} figure={figure} />
  ) : (
    <TraceSettings editing={editing} desk={desk} />
  );
}

/** What can be laid on; the traces themselves lie on the shelf. */
export function CollageList({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  return (
    <>
      <StockList editing={editing} desk={desk} />
      <FigureList editing={editing} />
      <FinishList editing={editing} />
      <RegionList editing={editing} />
    </>
  );
}
