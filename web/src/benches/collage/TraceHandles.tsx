import type { Desk, Trace } from "../../api/client";
import type { Editing } from "../../desk/study";
import { WindowHandles } from "./WindowHandles";

export type HandleProps = { editing: Editing; desk: Desk | undefined; trace: Trace; scale: number; place: (event: { clientX: number; clientY: number }) => [number, number] };

/** What of the chosen trace is moved where it lies on the drawing. */
export function TraceHandles(props: HandleProps) {
  return <WindowHandles {...props} />;
}
