import { Choice, ColourField, TextField } from "../../shared/controls";
import { SettingField } from "../../shared/SettingField";
import { at, type Editing } from "../../desk/study";
import { useNoteForms } from "./noting";

/** How the notes of a finish are lettered, and the colours of their themes. */
export function LetteringSettings({ editing }: { editing: Editing }) {
  const forms = useNoteForms();
  const lettering = editing.study.look.lettering!;
  const own = lettering as unknown as Record<string, unknown>;
  const set = (label: string, field: string, value: unknown) => editing.look(label, [at(["lettering", field], value)], true, `lettering.${field}`);
  const themes = lettering.themes ?? [];
  if (!forms) return null;
  return (
    <section aria-label="Lettering">
      <h2>Lettering</h2>
      <p className="quiet text-xs">Of the finish: every view that wears it is lettered so.</p>
      <Choice label="Face" value={lettering.face ?? "sans"} options={Object.entries(forms.faces).map(([value, label]) => ({ value, label }))} onChange={(v) => set("Face of the lettering", "face", v)} />
      {forms.lettering.map((setting) => (
        <SettingField key={setting.field} setting={setting} value={own[setting.field]} onChange={(v) => set(`Lettering: ${setting.title.toLowerCase()}`, setting.field, v)} />
      ))}
      <h3 className="label mt-3 font-sans">Themes</h3>
      {themes.map((theme) => (
        <ColourField key={theme.id} label={theme.name} value={theme.colour} onChange={(colour) => editing.look(`Colour of ${theme.name.toLowerCase()}`, [at(["lettering", "themes", theme.id, "colour"], colour)], true, `theme.${theme.id}`)} />
      ))}
      <TextField
        label="One more theme"
        value=""
        placeholder="its name"
        onChange={(name) => {
          const id = name.toLowerCase().replace(/[^a-z0-9]+/g, "-").slice(0, 40) || "theme";
          if (themes.every((t) => t.id !== id)) editing.look(`Theme ${name}`, [at(["lettering", "themes", id], { id, name, colour: "#6b635b" })], true);
        }}
      />
    </section>
  );
}
