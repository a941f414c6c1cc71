import { useState } from "react";
import { toast } from "sonner";

import { answered, http, type OwnPicture, type Trace } from "../../api/client";
import { at, type Editing } from "../../desk/study";
import { Leaf } from "../../shared/controls";
import { Points } from "./Points";

type Place = [number, number];
export const SHEET_CORNERS = [
  "Corner of the sheet, top left",
  "Corner of the sheet, top right",
  "Corner of the sheet, bottom right",
  "Corner of the sheet, bottom left",
];

/** What of a picture a trace shows by its points: the corners of a photographed sheet, or the two by which it lies. */
export function PictureOfTrace({
  editing,
  trace,
  pictures,
  everywhere,
}: {
  editing: Editing;
  trace: Trace;
  pictures: OwnPicture[];
  everywhere: boolean;
}) {
  const [open, setOpen] = useState<"corners" | "shown" | null>(null);
  const own = trace as unknown as { picture?: string; corners?: Place[]; shown?: Place[]; fit?: string; kind: string };
  const picture = pictures.find((p) => p.digest === own.picture);
  if (!picture) return null;
  const set = (label: string, field: string, value: unknown) =>
    editing.look(label, [at(["traces", trace.id, field], value)], everywhere, `${trace.id}.${field}`);
  const find = async () => {
    try {
      const { corners } = await answered<{ corners: Place[] }>(
        http.GET("/api/pictures/{digest}/sheet", { params: { path: { digest: picture.digest } } }),
      );
      set(`Corners of ${trace.name} found`, "corners", corners);
      setOpen(null);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "The sheet could not be looked for; try it again.");
    }
  };
  const act = (label: string, what: "corners" | "shown") => (
    <button
      type="button"
      className="plain mr-3 text-xs font-semibold underline decoration-hairline underline-offset-4"
      onClick={() => setOpen(what)}
    >
      {label}
    </button>
  );
  const src = `/api/pictures/${picture.digest}/picture`;
  return (
    <p className="py-1">
      {own.kind === "sketch" && act("Corners of the sheet", "corners")}
      {own.fit === "by two points" && act("Its two points", "shown")}
      {open === "corners" && (
        <Leaf
          open
          onClose={() => setOpen(null)}
          title="Corners of the sheet"
          about="They were found by themselves; draw each to its corner of the paper where they were not."
        >
          <Points
            src={src}
            about={picture.name}
            aspect={picture.height / picture.width}
            points={own.corners!}
            called={SHEET_CORNERS}
            closed
            onChange={(corners) => set(`Corners of ${trace.name}`, "corners", corners)}
          />
          <div className="mt-6 flex justify-end gap-3">
            <button type="button" className="line-act" onClick={() => void find()}>
              Find them again
            </button>
            <button type="button" className="act" onClick={() => setOpen(null)}>
              Done
            </button>
          </div>
        </Leaf>
      )}
      {open === "shown" && (
        <Leaf
          open
          onClose={() => setOpen(null)}
          title="Two points of the picture"
          about="Choose two that you know on the drawing, too; there each is drawn to its place."
        >
          <Points
            src={src}
            about={picture.name}
            aspect={picture.height / picture.width}
            points={own.shown!}
            called={["First point", "Second point"]}
            onChange={(shown) => set(`Points of ${trace.name}`, "shown", shown)}
          />
          <div className="mt-6 flex justify-end">
            <button type="button" className="act" onClick={() => setOpen(null)}>
              Done
            </button>
          </div>
        </Leaf>
      )}
    </p>
  );
}

/** Ways to lay a picture of one's own that is no material. */
export async function layAs(
  kind: "backdrop" | "register" | "level-lines" | "few-papers" | "sketch" | "flat-drawing",
  picture: OwnPicture,
  framing: string,
): Promise<Record<string, unknown>> {
  const base = { kind, picture: picture.digest };
  if (kind === "backdrop") return { ...base, scene: "picture", ends: "torn", ends_reach: 7, blend: "multiply" };
  if (kind === "flat-drawing") return { ...base, at_scale: picture.at_scale };
  if (kind === "sketch") {
    const { corners } = await answered<{ corners: Place[] }>(
      http.GET("/api/pictures/{digest}/sheet", { params: { path: { digest: picture.digest } } }),
    );
    return { ...base, corners, made_for: framing, blend: "multiply" };
  }
  return kind === "register" ? { ...base, made_for: framing } : { ...base, blend: "multiply" };
}
