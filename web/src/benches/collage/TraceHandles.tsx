import type { Desk, Trace } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { BackdropHandles } from "./BackdropHandles";
import { TwoPointHandles } from "./TwoPointHandles";
import { WindowHandles } from "./WindowHandles";

export type HandleProps = {
  editing: Editing;
  desk: Desk | undefined;
  trace: Trace;
  scale: number;
  place: (event: { clientX: number; clientY: number }) => [number, number];
};

/** What of the chosen trace is moved where it lies on the drawing. */
export function TraceHandles(props: HandleProps) {
  const everywhere = useScreen((s) => s.everywhere.Collage);
  const places = props.desk?.traces.find((t) => t.id === props.trace.id)?.places ?? {};
  return (
    <>
      {"horizon" in places && <BackdropHandles key={props.trace.id} {...props} everywhere={everywhere} />}
      {"two points" in places && (
        <TwoPointHandles key={`points ${props.trace.id}`} {...props} everywhere={everywhere} />
      )}
      <WindowHandles {...props} />
    </>
  );
}
