import { useEffect, useId, useState } from "react";

/** Several lines of text, taken when they are left. */
export function WordsField({
  value,
  hint,
  onChange,
}: {
  value: string;
  hint: string;
  onChange: (value: string) => void;
}) {
  const id = useId();
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <div className="py-2">
      <label htmlFor={id} className="label block">
        Says
      </label>
      <textarea
        id={id}
        rows={Math.min(8, Math.max(2, text.split("\n").length))}
        maxLength={4000}
        className="field w-full resize-y border border-soft px-1.5 leading-snug"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text !== value && onChange(text)}
        onKeyDown={(e) => e.key === "Enter" && (e.ctrlKey || e.metaKey) && e.currentTarget.blur()}
      />
      <p className="quiet text-xs">{hint}</p>
    </div>
  );
}
