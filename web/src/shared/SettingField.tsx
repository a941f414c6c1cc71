import type { Setting } from "../api/client";
import { Choice, ColourField, OnOff } from "./controls";
import { DashField } from "./DashField";
import { DimensionLine } from "./DimensionLine";

const NONE = "choose one";

/** One setting, by what it says of itself. */
export function SettingField(props: {
  setting: Setting;
  value: unknown;
  sets?: string[];
  onChange: (value: unknown) => void;
}) {
  return (
    <div title={props.setting.about || undefined}>
      <Field {...props} />
    </div>
  );
}

function Field({
  setting,
  value,
  sets = [],
  onChange,
}: {
  setting: Setting;
  value: unknown;
  sets?: string[];
  onChange: (value: unknown) => void;
}) {
  const now = value ?? setting.initial;
  switch (setting.sort) {
    case "colour":
      return <ColourField label={setting.title} value={now as string} onChange={onChange} />;
    case "on":
      return <OnOff label={setting.title} value={now as boolean} onChange={onChange} />;
    case "choice":
      return (
        <Choice
          label={setting.title}
          value={now as string}
          options={setting.options.map((o, k) => ({ value: o, label: setting.labels?.[k] ?? o }))}
          onChange={onChange}
        />
      );
    case "set":
      return (
        <Choice
          label={setting.title}
          value={(now as string) || NONE}
          options={[...new Set([...(now ? [now as string] : [NONE]), ...sets])].map((s) => ({ value: s, label: s }))}
          onChange={(v) => v !== NONE && onChange(v)}
        />
      );
    case "dash":
      return <DashField label={setting.title} value={now as number[]} onChange={onChange} />;
    default:
      return (
        <DimensionLine
          label={setting.title}
          unit={setting.unit || undefined}
          digits={setting.step < 1 ? 2 : 0}
          min={setting.low}
          max={setting.high}
          step={setting.step}
          initial={setting.initial as number}
          value={now as number}
          onChange={onChange}
        />
      );
  }
}
