import { useQuery } from "@tanstack/react-query";

import { answered, type Histogram, http } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";

/** How light and dark the drawing is, from black to white, and a word where its print would fill in. */
export function HistogramLine({ editing }: { editing: Editing }) {
  const { pixels, drawn } = useScreen();
  const { study } = editing;
  const ready = drawn === study.revision;
  const found = useQuery({
    queryKey: ["histogram", study.slug, study.revision, pixels],
    enabled: ready,
    queryFn: async () =>
      (await answered<Histogram | undefined>(
        http.GET("/api/studies/{slug}/histogram", {
          params: { path: { slug: study.slug }, query: { width: pixels, revision: study.revision } },
        }),
      )) ?? null,
    placeholderData: (before) => before,
  }).data;
  if (!found) return null;
  // Paper is most of a drawing: what is left is drawn by its root.
  const tall = found.bins.map((b) => Math.sqrt(b));
  const most = Math.max(...tall, 1e-6);
  const place = (share: number) => share * 224;
  return (
    <figure
      className="mt-3"
      aria-label={`Tones: a hundredth is darker than ${Math.round(found.darkest * 100)} %, a hundredth lighter than ${Math.round(found.lightest * 100)} %`}
    >
      <svg viewBox="0 0 224 58" className="block w-full" aria-hidden>
        <path
          d={`M0 44${tall.map((t, k) => `L${(k / tall.length) * 224} ${44 - (t / most) * 42}L${((k + 1) / tall.length) * 224} ${44 - (t / most) * 42}`).join("")}L224 44Z`}
          fill="#b9ad99"
        />
        <path d="M0 48H224" stroke="var(--color-graphite)" strokeWidth="1" />
        {[found.darkest, found.lightest].map((at) => (
          <path
            key={at}
            d={`M${place(at) - 4} 53L${place(at) + 4} 43`}
            stroke="var(--color-sanguine)"
            strokeWidth="2"
          />
        ))}
      </svg>
      <figcaption className="quiet text-xs">
        from {Math.round(found.darkest * 100)} % to {Math.round(found.lightest * 100)} % light
      </figcaption>
      {found.warning && (
        <p role="status" className="mt-1 flex gap-2 text-xs">
          <span className="mt-1 inline-block h-2 w-2 shrink-0 bg-ochre-mark" aria-hidden />
          {found.warning}
        </p>
      )}
    </figure>
  );
}
