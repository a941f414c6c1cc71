import createClient from "openapi-fetch";

import type { components, paths } from "../../generated/schema";

export type Study = components["schemas"]["StudyOut"];
export type StudyRow = components["schemas"]["StudyRow"];
export type StudyDocument = components["schemas"]["StudyDocument"];
export type Look = Study["look"];
export type Change = components["schemas"]["Change"];
export type Changed = components["schemas"]["ChangedOut"];
export type Command = components["schemas"]["EditIn"]["commands"][number];
export type SavedView = components["schemas"]["SavedView"];
export type View = components["schemas"]["ViewSpecification"];
export type Projection = View["projection"];
export type ViewKind = Study["kind"];
export type Cut = components["schemas"]["Cut"];
export type Landmarks = components["schemas"]["Landmarks"];
export type Trace = NonNullable<Study["look"]["traces"]>[number];
export type Setting = components["schemas"]["Setting"];
export type PenRule = NonNullable<Look["pens"]>[number];
export type PocheRule = NonNullable<Look["poche"]>[number];
export type SurfaceRule = NonNullable<Look["surfaces"]>[number];
export type BuildUp = NonNullable<Look["build_ups"]>[number];
export type Layer = BuildUp["layers"][number];
export type Rhythm = NonNullable<Layer["rhythms"]>[number];
export type BuildUpRule = NonNullable<Look["construction"]>[number];
export type Mark = NonNullable<StudyDocument["marks"]>[number];
export type Figure = NonNullable<StudyDocument["figures"]>[number];
export type Board = NonNullable<StudyDocument["boards"]>[number];
export type PlacedDrawing = NonNullable<Board["drawings"]>[number];
export type BoardState = components["schemas"]["BoardState"];
export type BoardDrawing = components["schemas"]["BoardDrawing"];
export type Note = NonNullable<SavedView["notes"]>[number];
export type NoteForm = components["schemas"]["NoteForm"];
export type NotePoint = components["schemas"]["NotePlaceOut"];
export type PlacedNote = components["schemas"]["NoteOut"];
export type FigureItem = components["schemas"]["FigureItem"];
export type Snap = components["schemas"]["SnapOut"];
export type SnapAsked = components["schemas"]["SnapIn"];
export type Plane = Snap["plane"];
export type Fill = NonNullable<PocheRule["fills"]>[number];
export type Hatch = components["schemas"]["Hatch"];
export type Hand = components["schemas"]["Hand"];
export type Pattern = components["schemas"]["PatternOut"];
export type Query = NonNullable<PenRule["where"]>;
export type Desk = components["schemas"]["DeskOut"];
export type Job = components["schemas"]["JobOut"];
export type OutFormat = components["schemas"]["OutFormat"];
export type OutSettings = components["schemas"]["OutSettings"];
export type PrintPaper = components["schemas"]["PrintPaperOut"];
export type Proof = components["schemas"]["ProofOut"];
export type SetState = components["schemas"]["SetState"];
export type Parts = components["schemas"]["PartsOut"];
export type Material = components["schemas"]["MaterialOut"];
export type Health = components["schemas"]["HealthOut"];
export type Finding = components["schemas"]["FindingOut"];
export type ModelFile = components["schemas"]["FileOut"];
export type RoleRule = components["schemas"]["RoleRule"];
export type ModelEdit = components["schemas"]["ModelEditIn"]["edits"][number];
export type Sun = components["schemas"]["Sun"];
export type Pointed = components["schemas"]["PointedOut"];
export type StockItem = components["schemas"]["StockItem"];
export type OwnPicture = Omit<components["schemas"]["StockPictureOut"], "item"> & { item: StockItem };
export type Histogram = components["schemas"]["Histogram"];
export type Probe = components["schemas"]["ProbeOut"];

// Looked up at each call, not kept from the first one: whoever watches or delays what is fetched does so here too.
export const http = createClient<paths>({ baseUrl: "", fetch: (request) => globalThis.fetch(request) });

/** Of a study that cannot be shown: at which revision, what undo would take back, whether it is being put right, and whether its model is lost. */
export type Unreadable = { revision: number; undo: string; mending: boolean; lost: boolean };

/** An answer that was not the one hoped for, with a sentence fit to be shown. */
export class Refused extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** Where a study cannot be shown as it is. */
    readonly unreadable?: Unreadable,
  ) {
    super(message);
  }
}

/**
 * The data of an answer, or a thrown {@link Refused} with the server's own sentence. The HTTP client loosens fixed-length
 * arrays to arrays; naming `T` gives the schema's own type back.
 */
export async function answered<T = never, D = unknown>(
  call: Promise<{ data?: D; error?: unknown; response: Response }>,
): Promise<[T] extends [never] ? D : T> {
  let got;
  try {
    got = await call;
  } catch {
    throw new Refused("The application does not answer; see whether ./run demo is still running.", 0);
  }
  if (got.response.ok) return got.data as [T] extends [never] ? D : T;
  const said = got.error as { message?: string; unreadable?: Unreadable } | undefined;
  throw new Refused(
    said?.message ?? `The server answered ${got.response.status}; see its log for the cause.`,
    got.response.status,
    said?.unreadable,
  );
}
