import { useRef, useState } from "react";

type Props = {
  azimuth: number;
  altitude: number;
  /** Where the sun goes on its day: azimuth, altitude and hour. */
  path?: [number, number, number][];
  onChange: (azimuth: number, altitude: number, settled: boolean) => void;
};

const R = 62;

/** A place on the dome as it is drawn: the rim is the horizon, the middle straight above. */
function onDome(azimuth: number, altitude: number): [number, number] {
  const reach = (1 - Math.max(altitude, 0) / 90) * R;
  const turn = (azimuth * Math.PI) / 180;
  return [reach * Math.sin(turn), -reach * Math.cos(turn)];
}

/** The dome of the sky in plan, north up, with the sun where it stands and the way it takes on its day. */
export function SunDial({ azimuth, altitude, path, onChange }: Props) {
  const ref = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState(false);
  const [x, y] = onDome(azimuth, altitude);

  const at = (event: React.PointerEvent, settled: boolean) => {
    const box = ref.current!.getBoundingClientRect();
    const px = event.clientX - box.left - box.width / 2;
    const py = event.clientY - box.top - box.height / 2;
    const far = Math.min(Math.hypot(px, py), R);
    if (far < 1) return;
    const angle = ((Math.atan2(px, -py) * 180) / Math.PI + 360) % 360;
    onChange(Math.round(angle), Math.round((1 - far / R) * 90), settled);
  };
  const keys = (event: React.KeyboardEvent) => {
    const step = event.shiftKey ? 10 : 2;
    const moves: Record<string, [number, number]> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, step],
      ArrowDown: [0, -step],
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    onChange((azimuth + move[0] + 360) % 360, Math.min(90, Math.max(0, altitude + move[1])), true);
  };

  return (
    <svg
      ref={ref}
      width="176"
      height="176"
      viewBox="-88 -88 176 176"
      className="mx-auto block touch-none cursor-crosshair"
      role="slider"
      tabIndex={0}
      aria-label="Sun: left and right turn it, up and down raise it"
      aria-valuemin={0}
      aria-valuemax={360}
      aria-valuenow={azimuth}
      aria-valuetext={`azimuth ${azimuth.toFixed(0)}°, altitude ${altitude.toFixed(0)}°`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setHeld(true);
        at(e, false);
      }}
      onPointerMove={(e) => held && at(e, false)}
      onPointerUp={(e) => {
        if (!held) return;
        setHeld(false);
        at(e, true);
      }}
      onKeyDown={keys}
    >
      <circle r={R} fill="var(--color-sheet)" stroke="var(--color-graphite)" />
      {[30, 60].map((a) => (
        <circle key={a} r={(1 - a / 90) * R} fill="none" stroke="var(--color-hairline)" />
      ))}
      {Array.from({ length: 24 }, (_, i) => (
        <line key={i} y1={-R} y2={-R - (i % 6 ? 3 : 7)} stroke="var(--color-soft)" transform={`rotate(${i * 15})`} />
      ))}
      <path d="M0 -86 L4.5 -74 L0 -77 L-4.5 -74 Z" fill="var(--color-graphite)" />
      {["E", "S", "W"].map((word, i) => (
        <text
          key={word}
          x={[79, 0, -79][i]}
          y={[4, 83, 4][i]}
          fontSize="11"
          textAnchor="middle"
          fill="var(--color-soft)"
        >
          {word}
        </text>
      ))}
      {path && path.length > 1 && (
        <>
          <path
            d={`M${path
              .map(([a, z]) =>
                onDome(a, z)
                  .map((n) => n.toFixed(1))
                  .join(" "),
              )
              .join("L")}`}
            fill="none"
            stroke="var(--color-ochre-mark)"
            strokeWidth="1.5"
          />
          {path
            .filter(([, , hour]) => hour % 3 === 0 && hour > 3 && hour < 21)
            .map(([a, z, hour]) => {
              const [px, py] = onDome(a, z);
              return (
                <g key={hour}>
                  <line x1={px - 2.5} x2={px + 2.5} y1={py + 2.5} y2={py - 2.5} stroke="var(--color-ochre)" />
                  <text x={px * 0.78} y={py * 0.78 + 3} fontSize="8.5" textAnchor="middle" fill="var(--color-ochre)">
                    {hour}
                  </text>
                </g>
              );
            })}
        </>
      )}
      {/* the building in the middle, and its shadow */}
      <path
        d={`M-6 -4 L6 -4 L${6 - x * 0.28} ${-4 - y * 0.28} L${6 - x * 0.28} ${4 - y * 0.28} L${-6 - x * 0.28} ${4 - y * 0.28} L-6 4 Z`}
        fill="var(--color-desk)"
      />
      <rect x="-6" y="-4" width="12" height="8" fill="var(--color-graphite)" />
      <line x2={x} y2={y} stroke="var(--color-sanguine)" strokeDasharray="3 3" />
      <circle
        cx={x}
        cy={y}
        r={altitude > 0 ? 7 : 5}
        fill={altitude > 0 ? "var(--color-sanguine)" : "none"}
        stroke="var(--color-sanguine)"
        strokeWidth="2"
      />
    </svg>
  );
}
