import { Choice } from "./controls";

const DASHES: { value: string; label: string }[] = [
  { value: "none", label: "unbroken" },
  { value: "1.6,0.9", label: "dashed" },
  { value: "0.2,0.8", label: "dotted" },
  { value: "6,1,1,1", label: "chain line" },
  { value: "3,1.5", label: "long dashes" },
];

/** A dash: mark and gap in turn, in millimetres of paper. */
export function DashField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: number[];
  onChange: (dash: number[]) => void;
}) {
  const now = value.join(",") || "none";
  const options = DASHES.some((d) => d.value === now) ? DASHES : [...DASHES, { value: now, label: now }];
  return (
    <Choice
      label={label}
      value={now}
      options={options}
      onChange={(v) => onChange(v === "none" ? [] : v.split(",").map(Number))}
    />
  );
}
