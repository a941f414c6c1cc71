import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { answered, http, type Changed, type Sun } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { at, type Editing, useChoices } from "../../desk/study";
import { Choice, DateField, NumberField, OnOff, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { SunDial } from "../../shared/SunDial";
import { useParts } from "../model/parts";

type Moment = NonNullable<Sun["moment"]>;

const PRESET: Record<string, string> = {
  "left shoulder": "over the left shoulder, 45°",
  "right shoulder": "over the right shoulder, 45°",
  raking: "raking along the front",
  high: "high summer noon",
  "from behind it": "from behind the building",
};

/** Where the sun stands: on the dome, by habit, or by place, day and hour. */
export function SunSettings({ editing }: { editing: Editing }) {
  const { study } = editing;
  const sun = study.document.desk.view.sun!;
  const choices = useChoices();
  const moment = sun.moment ?? null;
  const path = useQuery({
    queryKey: ["sun-path", study.slug, moment && { ...moment, hour: 0 }],
    enabled: !!moment,
    queryFn: () =>
      answered<[number, number, number][]>(
        http.GET("/api/studies/{slug}/sun-path", { params: { path: { slug: study.slug } } }),
      ),
    placeholderData: (before) => before,
  }).data;
  const set = (label: string, some: Partial<Sun>, gesture = "sun") =>
    editing.view(label, [at(["sun"], { ...sun, ...some })], gesture);
  const by = (some: { preset?: string; moment?: Moment }, gesture = "") =>
    void editing.replace(
      (base) =>
        answered<Changed>(
          http.POST("/api/studies/{slug}/sun", {
            params: { path: { slug: study.slug } },
            body: { base, gesture, ...some } as never,
          }),
        ),
      gesture,
    );
  const move = (some: Partial<Moment>, gesture = "moment") => moment && by({ moment: { ...moment, ...some } }, gesture);
  const city = choices?.cities.find((c) => c.name === moment?.place);
  const turned = (azimuth: number, altitude: number) => set("Turn the sun", { azimuth, altitude, moment: null });

  return (
    <>
      <h2>Sun</h2>
      <SunDial azimuth={sun.azimuth!} altitude={sun.altitude!} path={moment ? path : undefined} onChange={turned} />
      <NumberField
        label="Azimuth"
        value={sun.azimuth!}
        unit="°"
        digits={0}
        min={0}
        max={360}
        onChange={(azimuth) => turned(azimuth, sun.altitude!)}
      />
      <NumberField
        label="Altitude"
        value={sun.altitude!}
        unit="°"
        digits={0}
        min={-90}
        max={90}
        onChange={(altitude) => turned(sun.azimuth!, altitude)}
      />
      <Choice
        label="By habit"
        value="as it is"
        options={[
          { value: "as it is", label: "as it is" },
          ...(choices?.sun_presets ?? []).map((p) => ({ value: p, label: PRESET[p] ?? p })),
        ]}
        onChange={(preset) => preset !== "as it is" && by({ preset })}
      />
      <Choice
        label="Place"
        value={moment ? (city?.name ?? "another") : "none"}
        options={[
          { value: "none", label: "none: by hand" },
          ...(moment && !city ? [{ value: "another", label: "another place" }] : []),
          ...(choices?.cities ?? []).map((c) => ({ value: c.name, label: c.name })),
        ]}
        onChange={(name) => {
          const found = choices?.cities.find((c) => c.name === name);
          if (!found) return name === "none" && set("Sun by hand", { moment: null });
          const when = moment ?? { date: "2026-06-21", hour: 15, north: 0 };
          by({
            moment: {
              ...when,
              place: found.name,
              latitude: found.latitude,
              longitude: found.longitude,
              zone: found.zone,
            } as Moment,
          });
        }}
      />
      {moment && (
        <>
          <DateField label="Day" value={moment.date} onChange={(date) => move({ date })} />
          <DimensionLine
            label="Hour"
            unit="h"
            min={0}
            max={23.75}
            step={0.25}
            value={moment.hour}
            onChange={(hour) => move({ hour }, "hour")}
          />
          <div className="flex gap-4 py-1.5">
            <RowButton row="day">Through the day</RowButton>
            <RowButton row="year">Through the year</RowButton>
          </div>
          <Fold title="Latitude, longitude, north">
            <NumberField
              label="Latitude"
              value={moment.latitude}
              unit="°"
              min={-90}
              max={90}
              onChange={(latitude) => move({ latitude, place: "" })}
            />
            <NumberField
              label="Longitude"
              value={moment.longitude}
              unit="°"
              min={-180}
              max={180}
              onChange={(longitude) => move({ longitude, place: "" })}
            />
            <TextField label="Time zone" value={moment.zone ?? "UTC"} onChange={(zone) => move({ zone })} />
            <NumberField
              label="North, from the model's up"
              value={moment.north ?? 0}
              unit="°"
              digits={1}
              onChange={(north) => move({ north })}
            />
          </Fold>
        </>
      )}
      <Fold title="Its light">
        <DimensionLine
          label="Strength"
          min={0}
          max={1}
          initial={1}
          value={sun.strength!}
          onChange={(strength) => set("Strength of the sun", { strength })}
        />
        <DimensionLine
          label="Softness"
          unit="°"
          digits={1}
          min={0}
          max={10}
          step={0.1}
          initial={0}
          value={sun.softness!}
          onChange={(softness) => set("Softness of shadows", { softness })}
        />
        <DimensionLine
          label="Ambient"
          min={0}
          max={1}
          initial={0}
          value={sun.ambient!}
          onChange={(ambient) => set("Ambient light", { ambient })}
        />
        <DimensionLine
          label="Shadow of glass"
          min={0}
          max={1}
          initial={0}
          value={sun.glass!}
          onChange={(glass) => set("Shadow of glass", { glass })}
        />
        {study.document.desk.view.cuts!.length > 0 && (
          <OnOff
            label="The cast-off half casts"
            value={sun.cast_off!}
            onChange={(cast_off) =>
              set(cast_off ? "The cast-off half casts" : "The cast-off half casts nothing", { cast_off })
            }
          />
        )}
        <Exempt editing={editing} sun={sun} />
      </Fold>
      <ToneSettings editing={editing} />
    </>
  );
}

/** Shows the view's suns of a day or a year under the drawing, or puts them away. */
function RowButton({ row, children }: { row: "day" | "year"; children: string }) {
  const { sunRow, set } = useScreen();
  return (
    <button
      type="button"
      aria-pressed={sunRow === row}
      className={`plain text-xs font-semibold underline underline-offset-4 ${sunRow === row ? "decoration-sanguine" : "decoration-hairline"}`}
      onClick={() => set({ sunRow: sunRow === row ? null : row })}
    >
      {children}
    </button>
  );
}

/** Settings that are seldom wanted, behind their title. */
function Fold({ title, children }: { title: string; children: React.ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <section className="border-b border-hairline">
      <button
        type="button"
        aria-expanded={open}
        className="plain flex w-full items-center justify-between py-1.5"
        onClick={() => setOpen(!open)}
      >
        {title}
        <svg width="9" height="9" aria-hidden className={open ? "" : "-rotate-90"}>
          <path d="M1 2.5l3.5 3.5L8 2.5" fill="none" stroke="currentColor" />
        </svg>
      </button>
      {open && <div className="pb-2">{children}</div>}
    </section>
  );
}

/** Which roles cast nothing or receive nothing. */
function Exempt({ editing, sun }: { editing: Editing; sun: Sun }) {
  const parts = useParts(editing.study).data;
  if (!parts) return null;
  const used = new Set(parts.role);
  const without = { casting: sun.not_casting?.roles ?? [], receiving: sun.not_receiving?.roles ?? [] } as {
    casting: string[];
    receiving: string[];
  };
  const named = (words: string) =>
    words
      .split(";")
      .map((w) => w.trim())
      .filter(Boolean);
  return (
    <>
      {(["not_casting", "not_receiving"] as const).map((which) => (
        <TextField
          key={which}
          label={which === "not_casting" ? "Parts that cast nothing" : "Parts that receive nothing"}
          placeholder="Hall/Beam 3; Planting/*"
          value={(sun[which]?.parts ?? []).join("; ")}
          onChange={(words) =>
            editing.view(which === "not_casting" ? "Parts that cast nothing" : "Parts that receive nothing", [
              at(["sun", which, "parts"], named(words)),
            ])
          }
        />
      ))}
      {parts.roles.map((role, n) => {
        if (!used.has(n)) return null;
        const now =
          `${without.casting.includes(role) ? "" : "casts"}${without.receiving.includes(role) ? "" : " receives"}`.trim() ||
          "neither";
        return (
          <Choice
            key={role}
            label={role}
            value={now}
            options={[
              { value: "casts receives", label: "casts and receives" },
              { value: "receives", label: "casts nothing" },
              { value: "casts", label: "receives nothing" },
              { value: "neither", label: "does neither" },
            ]}
            onChange={(how) => {
              const change = (list: string[], out: boolean) => [
                ...list.filter((r) => r !== role),
                ...(out ? [role] : []),
              ];
              editing.view(`How ${role} meets the sun`, [
                at(["sun", "not_casting", "roles"], change(without.casting, !how.includes("casts"))),
                at(["sun", "not_receiving", "roles"], change(without.receiving, !how.includes("receives"))),
              ]);
            }}
          />
        );
      })}
    </>
  );
}

/** Shade, corners and depth of the view. */
function ToneSettings({ editing }: { editing: Editing }) {
  const view = editing.study.document.desk.view;
  const shade = view.shade!;
  const corners = view.occlusion!;
  const set = (label: string, group: "shade" | "occlusion", field: string, value: number) =>
    editing.view(label, [at([group, field], value)], `${group}.${field}`);
  return (
    <Fold title="Shade and corners">
      <Choice
        label="Tone of shade"
        value={String(shade.steps)}
        options={[
          { value: "0", label: "continuous" },
          ...[2, 3, 4, 5, 6, 8].map((n) => ({ value: String(n), label: `in ${n} steps` })),
        ]}
        onChange={(steps) => set("Steps of shade", "shade", "steps", Number(steps))}
      />
      <DimensionLine
        label="Light from the sky"
        min={0}
        max={1}
        initial={0}
        value={shade.sky!}
        onChange={(v) => set("Light from the sky", "shade", "sky", v)}
      />
      <DimensionLine
        label="Light from the ground"
        min={0}
        max={1}
        initial={0}
        value={shade.ground!}
        onChange={(v) => set("Light from the ground", "shade", "ground", v)}
      />
      <NumberField
        label="Corners reach"
        unit="m"
        value={corners.radius!}
        min={0.01}
        max={1000}
        onChange={(v) => set("Reach of corners", "occlusion", "radius", v)}
      />
      <DimensionLine
        label="Strength of corners"
        min={0}
        max={1}
        initial={1}
        value={corners.strength!}
        onChange={(v) => set("Strength of corners", "occlusion", "strength", v)}
      />
      <Choice
        label="Fineness of corners"
        value={String(corners.samples)}
        options={[...new Set([16, 32, 64, 128, corners.samples!])]
          .sort((a, b) => a - b)
          .map((n) => ({ value: String(n), label: `${n} samples` }))}
        onChange={(n) => set("Fineness of corners", "occlusion", "samples", Number(n))}
      />
    </Fold>
  );
}
