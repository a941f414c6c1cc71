/** What a kind of note looks like, as it is drawn. */
export function NoteSign({ path, chosen }: { path: string; chosen?: boolean }) {
  return (
    <svg width="20" height="16" viewBox="0 0 20 16" aria-hidden className="shrink-0">
      <path
        d={path}
        fill="none"
        stroke={chosen ? "var(--color-sanguine)" : "var(--color-graphite)"}
        strokeWidth="1.2"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </svg>
  );
}
