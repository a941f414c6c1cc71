import { useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";

import { answered, http, type Job, Refused } from "../../api/client";
import { Choice, ColourField, TextField } from "../../shared/controls";
import { SettingField } from "../../shared/SettingField";
import { at, type Editing, finished } from "../../desk/study";
import { useNoteForms } from "./noting";

/** How the notes of a finish are lettered, and the colours of their themes. */
export function LetteringSettings({ editing }: { editing: Editing }) {
  const forms = useNoteForms();
  const lettering = editing.study.look.lettering!;
  const own = lettering as unknown as Record<string, unknown>;
  const set = (label: string, field: string, value: unknown) =>
    editing.look(label, [at(["lettering", field], value)], true, `lettering.${field}`);
  const themes = lettering.themes ?? [];
  const queries = useQueryClient();
  const { data: ownFaces = [] } = useQuery({ queryKey: ["faces"], queryFn: () => answered(http.GET("/api/faces")) });
  const faces = [
    ...Object.entries(forms?.faces ?? {}).map(([value, label]) => ({ value, label })),
    ...ownFaces.map((f) => ({ value: f.face, label: f.name })),
  ];
  const take = async (file: File) => {
    const body = new FormData();
    body.append("file", file);
    try {
      const answer = await fetch("/api/faces", { method: "POST", body });
      const sent = (await answer.json()) as Job;
      if (!answer.ok) throw new Refused(sent.message, answer.status);
      const { face } = (await finished(sent, () => undefined)).result as { face: string };
      await queries.invalidateQueries({ queryKey: ["faces"] });
      set("Face of the lettering", "face", face);
    } catch (error) {
      toast.error(
        error instanceof Refused
          ? error.message
          : "This face could not be sent; see whether ./run demo is still running.",
      );
    }
  };
  if (!forms) return null;
  return (
    <section aria-label="Lettering">
      <h2>Lettering</h2>
      <p className="quiet text-xs">Of the finish: every view that wears it is lettered so.</p>
      <Choice
        label="Face"
        value={lettering.face ?? "sans"}
        options={faces}
        onChange={(v) => set("Face of the lettering", "face", v)}
      />
      <label className="plain block cursor-pointer py-1 text-xs underline underline-offset-4">
        A face of one’s own, from a TTF, OTF or WOFF file
        <input
          type="file"
          accept=".ttf,.otf,.woff"
          className="sr-only"
          onChange={(e) => e.target.files?.[0] && void take(e.target.files[0]).finally(() => (e.target.value = ""))}
        />
      </label>
      {forms.lettering.map((setting) => (
        <SettingField
          key={setting.field}
          setting={setting}
          value={own[setting.field]}
          onChange={(v) => set(`Lettering: ${setting.title.toLowerCase()}`, setting.field, v)}
        />
      ))}
      <h3 className="label mt-3 font-sans">Themes</h3>
      {themes.map((theme) => (
        <ColourField
          key={theme.id}
          label={theme.name}
          value={theme.colour}
          onChange={(colour) =>
            editing.look(
              `Colour of ${theme.name.toLowerCase()}`,
              [at(["lettering", "themes", theme.id, "colour"], colour)],
              true,
              `theme.${theme.id}`,
            )
          }
        />
      ))}
      <TextField
        label="One more theme"
        value=""
        placeholder="its name"
        onChange={(name) => {
          const id =
            name
              .toLowerCase()
              .replace(/[^a-z0-9]+/g, "-")
              .slice(0, 40) || "theme";
          if (themes.every((t) => t.id !== id))
            editing.look(`Theme ${name}`, [at(["lettering", "themes", id], { id, name, colour: "#6b635b" })], true);
        }}
      />
    </section>
  );
}
