import { Tabs } from "radix-ui";

import { BENCHES, useScreen } from "./screen";

/** The five benches as stations along one dimension line, in the order of the work. */
export function BenchLine() {
  const { bench } = useScreen();
  return (
    <Tabs.List aria-label="Benches" className="relative mx-auto flex w-full max-w-[700px] justify-between px-2">
      <svg className="absolute top-[35px] right-[6px] left-[6px] h-px w-[calc(100%-12px)] overflow-visible" aria-hidden>
        <line x1="22" x2="calc(100% - 22px)" y1="0" y2="0" stroke="var(--color-hairline)" />
      </svg>
      {BENCHES.map((name) => (
        <Tabs.Trigger
          key={name}
          value={name}
          className={`plain relative z-10 flex w-20 flex-col items-center pt-1.5 pb-1 ${bench === name ? "font-semibold text-graphite" : "text-soft"}`}
        >
          {name}
          <svg width="18" height="16" aria-hidden>
            <line
              x1="3"
              x2="15"
              y1="14"
              y2="2"
              stroke={bench === name ? "var(--color-sanguine)" : "var(--color-soft)"}
              strokeWidth={bench === name ? 3 : 1.1}
            />
          </svg>
        </Tabs.Trigger>
      ))}
    </Tabs.List>
  );
}
