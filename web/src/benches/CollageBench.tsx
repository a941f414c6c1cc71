import type { Desk } from "../api/client";
import type { Editing } from "../desk/study";
import { RegionList } from "./collage/RegionList";
import { StockList } from "./collage/StockList";
import { FinishList } from "./FinishList";

export { TraceSettings as CollageSettings } from "./collage/TraceSettings";

/** What can be laid on; the traces themselves lie on the shelf. */
export function CollageList({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  return (
    <>
      <StockList editing={editing} desk={desk} />
      <FinishList editing={editing} />
      <RegionList editing={editing} />
    </>
  );
}
