import { useState } from "react";
import { toast } from "sonner";

import { answered, type Figure, type FigureItem, http } from "../../../api/client";
import { at, type Editing } from "../../../desk/study";
import { Leaf } from "../../../shared/controls";
import { filtered, NO_FILTER, pathOf, roleOf, useParts } from "../../model/parts";
import { useFigureStock, useStanding } from "./standing";

/** Put many figures that the server has found places for; one step of undo. */
export async function putMany(
  editing: Editing,
  label: string,
  body: Record<string, unknown>,
): Promise<Figure[] | null> {
  const { slug } = editing.study;
  try {
    const found = (await answered(
      http.POST("/api/studies/{slug}/figures/many", { params: { path: { slug } }, body: body as never }),
    )) as unknown as Figure[];
    const done = await editing.act({
      do: "figures",
      label: `${label}: ${found.length}`.slice(0, 120),
      changes: found.map((f) => at(["figures", f.id!], f)),
    });
    return done ? found : null;
  } catch (error) {
    toast.error((error as Error).message);
    return null;
  }
}

type Take = { items: FigureItem[]; item: FigureItem | null; onTake: (item: FigureItem) => void };

/** Figures to take, each as it is drawn. */
function Samples({ items, item, onTake, across }: Take & { across: string }) {
  return (
    <ul className={`mt-1 grid gap-x-1.5 gap-y-1.5 ${across}`}>
      {items.map((i) => (
        <li key={i.id}>
          <button
            type="button"
            aria-pressed={item?.id === i.id}
            aria-label={`${i.label} from stock`}
            title={`${i.label}: take it, and click where it stands`}
            className="plain block w-full"
            onClick={() => onTake(i)}
          >
            <img
              src={`/api/figures/${i.id}/sample`}
              alt=""
              loading="lazy"
              draggable={false}
              className={`block aspect-square w-full bg-sheet object-cover outline ${item?.id === i.id ? "outline-2 outline-sanguine" : "outline-1 outline-[#d5c9b5]"}`}
            />
            <span
              className={`block truncate pt-0.5 text-[10.5px] ${item?.id === i.id ? "font-semibold text-sanguine" : ""}`}
            >
              {i.label}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** All figures of the stock side by side. */
function WholeStock({ sorts, items, item, onTake, onClose }: Take & { sorts: string[]; onClose: () => void }) {
  return (
    <Leaf
      open
      wide
      onClose={onClose}
      title="Figures in stock"
      about={`${items.length} figures, each grown anew where it stands. Take one, and click in the drawing what it stands on.`}
    >
      <div className="columns-3 gap-x-6">
        {sorts.map((sort) => (
          <section key={sort} aria-label={sort} className="mb-2 break-inside-avoid">
            <h3 className="label">{sort}</h3>
            <Samples items={items.filter((i) => i.sort === sort)} item={item} onTake={onTake} across="grid-cols-6" />
          </section>
        ))}
      </div>
    </Leaf>
  );
}

/** People, planting and things to take; what is taken is put by clicking what it stands on. */
export function FigureStock({ editing }: { editing: Editing }) {
  const stock = useFigureStock();
  const { item, take } = useStanding();
  const items = stock?.items ?? [];
  const sorts = [...new Set(items.map((i) => i.sort))];
  const [open, setOpen] = useState("people, standing");
  const [whole, setWhole] = useState(false);
  const parts = useParts(editing.study).data;
  const gone = new Set((editing.study.document.figures ?? []).flatMap((f) => f.replaces ?? []));
  const modelled = parts
    ? filtered(parts, NO_FILTER, new Set()).filter(
        (n) => ["planting", "people"].includes(roleOf(parts, n)) && !gone.has(pathOf(parts, n)),
      ).length
    : 0;
  const onTake = (i: FigureItem) => (take(item?.id === i.id ? null : i), setWhole(false));
  return (
    <>
      {sorts.map((sort) => (
        <div key={sort}>
          <button
            type="button"
            className="plain label mt-2 flex w-full justify-between"
            aria-expanded={open === sort}
            onClick={() => setOpen(open === sort ? "" : sort)}
          >
            {sort}
            <span aria-hidden>{open === sort ? "–" : "+"}</span>
          </button>
          {open === sort && (
            <Samples items={items.filter((i) => i.sort === sort)} item={item} onTake={onTake} across="grid-cols-3" />
          )}
        </div>
      ))}
      <button
        type="button"
        className="plain mt-3 text-xs underline decoration-hairline underline-offset-4"
        onClick={() => setWhole(true)}
      >
        See all {items.length} at once
      </button>
      {whole && <WholeStock sorts={sorts} items={items} item={item} onTake={onTake} onClose={() => setWhole(false)} />}
      {modelled > 0 && (
        <p className="mt-3 text-xs">
          {modelled} modelled {modelled === 1 ? "part is" : "parts are"} planting or people.{" "}
          <button
            type="button"
            className="plain font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => void putMany(editing, "Dress what is modelled", { how: "parts" })}
          >
            Dress them with grown ones
          </button>
        </p>
      )}
    </>
  );
}
