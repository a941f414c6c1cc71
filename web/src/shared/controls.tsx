import { Dialog, Select, Switch, Tooltip } from "radix-ui";
import { type ReactNode, useCallback, useEffect, useId, useState } from "react";

/** What an empty value is called while it is chosen among: the list takes a really empty one for none. */
const NOTHING = "\u2013";
const kept = (value: string): string => value || NOTHING;

/** A choice from a short list. */
export function Choice<T extends string>(props: {
  label: string;
  value: T;
  options: readonly { value: T; label: string }[];
  onChange: (value: T) => void;
  hideLabel?: boolean;
}) {
  const id = useId();
  return (
    <div className={props.hideLabel ? "" : "row"}>
      <span id={id} className={props.hideLabel ? "sr-only" : ""}>
        {props.label}
      </span>
      <Select.Root value={kept(props.value)} onValueChange={(v) => props.onChange((v === NOTHING ? "" : v) as T)}>
        <Select.Trigger aria-labelledby={id} className="plain flex items-center gap-2">
          <Select.Value />
          <Select.Icon aria-hidden>
            <svg width="9" height="6">
              <path d="M1 1l3.5 3.5L8 1" fill="none" stroke="currentColor" />
            </svg>
          </Select.Icon>
        </Select.Trigger>
        <Select.Portal>
          <Select.Content className="pop" position="popper" sideOffset={4} align="end">
            <Select.Viewport>
              {props.options.map((option) => (
                <Select.Item key={option.value} value={kept(option.value)}>
                  <Select.ItemIndicator className="absolute left-2" aria-hidden>
                    <svg width="10" height="12">
                      <line x1="1" x2="9" y1="11" y2="2" stroke="var(--color-sanguine)" strokeWidth="2.4" />
                    </svg>
                  </Select.ItemIndicator>
                  <Select.ItemText>{option.label}</Select.ItemText>
                </Select.Item>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      </Select.Root>
    </div>
  );
}

/** On or off, said in words as well. */
export function OnOff(props: { label: string; value: boolean; onChange: (value: boolean) => void; bare?: boolean }) {
  const id = useId();
  const control = (
    <Switch.Root
      aria-label={props.bare ? props.label : undefined}
      aria-labelledby={props.bare ? undefined : id}
      checked={props.value}
      onCheckedChange={props.onChange}
      className="plain flex items-center gap-1.5"
      onClick={(e) => e.stopPropagation()}
    >
      <svg width="22" height="12" aria-hidden>
        <line x1="1" x2="21" y1="6" y2="6" stroke="var(--color-soft)" />
        <line
          x1={props.value ? 14 : 2}
          x2={props.value ? 20 : 8}
          y1="10"
          y2="2"
          stroke={props.value ? "var(--color-sanguine)" : "var(--color-soft)"}
          strokeWidth="2.6"
        />
      </svg>
      <span className="w-6 text-xs">{props.value ? "on" : "off"}</span>
    </Switch.Root>
  );
  if (props.bare) return control;
  return (
    <div className="row">
      <span id={id}>{props.label}</span>
      {control}
    </div>
  );
}

/** A colour with its swatch; typed as six figures or picked. */
export function ColourField(props: {
  label: string;
  value: string;
  onChange: (value: string, settled: boolean) => void;
}) {
  const id = useId();
  const [text, setText] = useState(props.value);
  useEffect(() => setText(props.value), [props.value]);
  const good = /^#[0-9a-f]{6}$/i.test(text);
  return (
    <div className="row">
      <label htmlFor={id}>{props.label}</label>
      <span className="flex items-center gap-2">
        <input
          aria-label={`${props.label}, in figures`}
          aria-invalid={!good}
          className="field w-[70px] border-transparent text-right"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={() =>
            good ? text !== props.value && props.onChange(text.toLowerCase(), true) : setText(props.value)
          }
          onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        />
        <input
          id={id}
          type="color"
          className="h-5 w-7 cursor-pointer border border-soft bg-transparent p-0"
          value={good ? text : props.value}
          onChange={(e) => {
            setText(e.target.value);
            props.onChange(e.target.value, false);
          }}
        />
      </span>
    </div>
  );
}

/** A line of text that is taken when it is left or Enter is pressed. */
export function TextField(props: {
  label: string;
  value: string;
  placeholder?: string;
  onChange: (value: string) => void;
}) {
  const id = useId();
  const [text, setText] = useState(props.value);
  useEffect(() => setText(props.value), [props.value]);
  return (
    <div className="py-2">
      <label htmlFor={id} className="label block">
        {props.label}
      </label>
      <input
        id={id}
        className="field w-full"
        value={text}
        placeholder={props.placeholder}
        maxLength={120}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text !== props.value && props.onChange(text)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </div>
  );
}

/** A day, typed or picked. */
export function DateField(props: { label: string; value: string; onChange: (value: string) => void }) {
  const id = useId();
  const [text, setText] = useState(props.value);
  useEffect(() => setText(props.value), [props.value]);
  const take = () =>
    /^\d{4}-\d\d-\d\d$/.test(text) ? text !== props.value && props.onChange(text) : setText(props.value);
  return (
    <div className="row">
      <label htmlFor={id}>{props.label}</label>
      <input
        id={id}
        inputMode="numeric"
        placeholder="2026-06-21"
        aria-description="year, month and day"
        className="field w-24 border-transparent text-right"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => e.key === "Enter" && take()}
      />
    </div>
  );
}

/** A number as it is written: a hair below zero is zero, not “-0.00”. */
const withDigits = (n: number, digits = 2) => n.toFixed(digits).replace(/^-(?=0(\.0*)?$)/, "");

/** A number with its unit, typed. */
export function NumberField(props: {
  label: string;
  value: number;
  unit: string;
  digits?: number;
  min?: number;
  max?: number;
  onChange: (value: number) => void;
}) {
  const id = useId();
  const format = useCallback((n: number) => withDigits(n, props.digits), [props.digits]);
  const [text, setText] = useState(format(props.value));
  useEffect(() => setText(format(props.value)), [props.value, format]);
  const take = () => {
    const number = Number(text.replace(",", "."));
    if (text.trim() === "" || !Number.isFinite(number)) return setText(format(props.value));
    const next = Math.min(props.max ?? 1e9, Math.max(props.min ?? -1e9, number));
    setText(format(next));
    if (Math.abs(next - props.value) > 1e-9) props.onChange(next);
  };
  return (
    <div className="row">
      <label htmlFor={id}>{props.label}</label>
      <span className="flex items-baseline gap-1">
        <input
          id={id}
          className="field w-20 border-transparent text-right"
          inputMode="decimal"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onFocus={(e) => e.target.select()}
          onBlur={take}
          onKeyDown={(e) => e.key === "Enter" && take()}
        />
        <span className="quiet w-7">{props.unit}</span>
      </span>
    </div>
  );
}

/** A short explanation for a sign. */
export function Hint({ words, children }: { words: string; children: ReactNode }) {
  return (
    <Tooltip.Root delayDuration={400}>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={6} className="z-[70] bg-graphite px-2 py-1 text-xs text-sheet">
          {words}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

/** A leaf laid over the desk for one question. */
export function Leaf(props: {
  open: boolean;
  onClose: () => void;
  title: string;
  about: string;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={props.open} onOpenChange={(open) => !open && props.onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className={`leaf ${props.wide ? "wide" : ""}`}>
          <Dialog.Title className="text-[20px]">{props.title}</Dialog.Title>
          <Dialog.Description className="quiet mt-1 mb-4">{props.about}</Dialog.Description>
          {props.children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
