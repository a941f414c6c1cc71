import { useEffect, useRef, useState } from "react";
import * as THREE from "three";

import type { Cut, View } from "../api/client";
import { dollied, frameMatrix, orbited, panned, type Vec } from "../benches/view/camera";

type Head = {
  origin: Vec;
  low: Vec;
  high: Vec;
  materials: { name: string; colour: string; opacity: number }[];
  part_material: number[];
  blocks: Record<string, [number, number]>;
};

type Props = {
  slug: string;
  version: string;
  view: View;
  /** The scale and middle in force where the view leaves them to the model. */
  scale: number;
  centre: Vec;
  /** Draw the paper's frame over the model; without it the view only looks. */
  framed: boolean;
  part: number | null;
  onPart: (part: number | null) => void;
  onView: (view: View, settled: boolean) => void;
  onScale?: (larger: boolean) => void;
};

/** The model in three dimensions, seen through the very frame that the drawing has. */
export default function ModelView(props: Props) {
  const room = useRef<HTMLDivElement>(null);
  const stage = useRef<ThreeStage | null>(null);
  const [state, setState] = useState<"loading" | "ready" | string>("loading");
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const latest = useRef(props);
  latest.current = props;

  useEffect(() => {
    let current = true;
    let made: ThreeStage | null = null;
    setState("loading");
    (async () => {
      try {
        const answer = await fetch(`/api/studies/${props.slug}/mesh?version=${props.version}`);
        if (!answer.ok) throw new Error(`the server answered ${answer.status}`);
        const data = await answer.arrayBuffer();
        if (!current) return;
        made = new ThreeStage(room.current!, data);
        stage.current = made;
        setState("ready");
      } catch (error) {
        if (current) setState(`The model cannot be shown in 3D: ${error instanceof Error ? error.message : "unknown cause"}. The drawing still works.`);
      }
    })();
    const watch = new ResizeObserver(() => setSize([room.current!.clientWidth, room.current!.clientHeight]));
    watch.observe(room.current!);
    return () => {
      current = false;
      watch.disconnect();
      made?.dispose();
      stage.current = null;
    };
  }, [props.slug, props.version]);

  useEffect(() => {
    stage.current?.show(props.view, props.scale, props.centre, props.part);
  }, [props.view, props.scale, props.centre, props.part, state, size]);

  const matrix = frameMatrix(props.view, props.scale, props.centre);
  const frame = { w: props.view.frame?.width ?? 420, h: props.view.frame?.height ?? 297 };
  const perMm = Math.min((size[0] - 48) / frame.w, (size[1] - 48) / frame.h) || 1;
  const drag = useRef<{ x: number; y: number; moved: number; view: View; pan: boolean } | null>(null);
  const wheelEnd = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);

  const moved = (event: React.PointerEvent): View | null => {
    const held = drag.current;
    if (!held) return null;
    const dx = event.clientX - held.x;
    const dy = event.clientY - held.y;
    const { scale, centre } = latest.current;
    const projection = held.pan
      ? panned(held.view.projection, [dx / perMm, dy / perMm], held.view.frame?.scale ?? scale, centre, frame.w)
      : orbited(held.view.projection, -dx * 0.006, -dy * 0.006, centre);
    return { ...held.view, projection } as View;
  };

  useEffect(() => {
    const box = room.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const { view, onView, onScale } = latest.current;
      if (view.projection.kind === "perspective") {
        const next = { ...view, projection: dollied(view.projection, Math.exp(event.deltaY * 0.001)) } as View;
        onView(next, false);
        clearTimeout(wheelEnd.current);
        wheelEnd.current = setTimeout(() => latest.current.onView(latest.current.view, true), 350);
      } else if (onScale) {
        clearTimeout(wheelEnd.current);
        wheelEnd.current = setTimeout(() => onScale(event.deltaY < 0), 60);
      }
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, []);

  const keys = (event: React.KeyboardEvent) => {
    const { view, centre, onView, onScale } = props;
    const turn: Record<string, [number, number]> = { ArrowLeft: [0.09, 0], ArrowRight: [-0.09, 0], ArrowUp: [0, 0.09], ArrowDown: [0, -0.09] };
    const by = turn[event.key];
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (by) onView({ ...view, projection: orbited(view.projection, by[0], by[1], centre) } as View, true);
    else if (event.key === "+" || event.key === "-") {
      if (view.projection.kind === "perspective")
        onView({ ...view, projection: dollied(view.projection, event.key === "+" ? 0.85 : 1.18) } as View, true);
      else onScale?.(event.key === "+");
    }
  };

  return (
    <div
      ref={room}
      className="relative h-full min-h-0 cursor-grab touch-none overflow-hidden bg-desk active:cursor-grabbing"
      role="application"
      tabIndex={0}
      data-frame={JSON.stringify(matrix)}
      aria-label="Model in three dimensions. Drag to orbit, with Shift to move, wheel to come nearer; arrows turn it, plus and minus come nearer."
      onContextMenu={(e) => e.preventDefault()}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, y: e.clientY, moved: 0, view: props.view, pan: e.shiftKey || e.button !== 0 };
      }}
      onPointerMove={(e) => {
        const next = moved(e);
        if (!next) return;
        drag.current!.moved += Math.abs(e.movementX) + Math.abs(e.movementY);
        if (drag.current!.moved > 3) props.onView(next, false);
      }}
      onPointerUp={(e) => {
        const next = moved(e);
        const held = drag.current;
        drag.current = null;
        if (!held) return;
        if (held.moved > 3 && next) props.onView(next, true);
        else {
          const box = e.currentTarget.getBoundingClientRect();
          props.onPart(stage.current?.pick(e.clientX - box.left, e.clientY - box.top) ?? null);
        }
      }}
      onKeyDown={keys}
    >
      {state === "loading" && <p className="quiet absolute inset-0 flex items-center justify-center">Bringing the model …</p>}
      {state !== "loading" && state !== "ready" && (
        <p role="alert" className="absolute inset-x-10 top-8 bg-sheet px-4 py-3 text-sanguine">
          {state}
        </p>
      )}
      {props.framed && size[0] > 0 && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
          <path
            fillRule="evenodd"
            fill="var(--color-desk)"
            fillOpacity="0.72"
            d={`M0 0H${size[0]}V${size[1]}H0Z M${(size[0] - frame.w * perMm) / 2} ${(size[1] - frame.h * perMm) / 2}h${frame.w * perMm}v${frame.h * perMm}h${-frame.w * perMm}Z`}
          />
          <rect
            x={(size[0] - frame.w * perMm) / 2}
            y={(size[1] - frame.h * perMm) / 2}
            width={frame.w * perMm}
            height={frame.h * perMm}
            fill="none"
            stroke="var(--color-graphite)"
          />
          <text x={(size[0] - frame.w * perMm) / 2 + 8} y={(size[1] + frame.h * perMm) / 2 - 8} fontSize="12" fill="var(--color-soft)">
            {frame.w} × {frame.h} mm{props.view.projection.kind !== "perspective" && ` · 1:${props.view.frame?.scale ?? props.scale}`}
          </text>
        </svg>
      )}
    </div>
  );
}

/** Scene, light and camera of the model view. World coordinates are metres about the model's middle. */
class ThreeStage {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.Camera();
  private readonly sun = new THREE.DirectionalLight("#fff3e0", 2.1);
  private readonly head: Head;
  private readonly parts: Uint32Array;
  private readonly positions: Float32Array;
  private readonly meshes: THREE.Mesh[] = [];
  private readonly planes = new THREE.Group();
  private readonly picked: THREE.Mesh;
  private readonly radius: number;
  private asked = 0;

  constructor(
    private readonly room: HTMLDivElement,
    data: ArrayBuffer,
  ) {
    const size = new DataView(data).getUint32(0, true);
    this.head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as Head;
    const block = (name: string): [number, number] => {
      const [at, bytes] = this.head.blocks[name]!;
      return [4 + size + at, bytes];
    };
    const floats = (name: string) => new Float32Array(data, block(name)[0], block(name)[1] / 4);
    this.positions = floats("positions");
    this.parts = new Uint32Array(data, block("parts")[0], block("parts")[1] / 4);
    this.radius = Math.hypot(...[0, 1, 2].map((k) => (this.head.high[k]! - this.head.low[k]!) / 2));

    this.renderer = new THREE.WebGLRenderer({ antialias: true, alpha: true });
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.localClippingEnabled = true;
    this.renderer.domElement.className = "absolute inset-0";
    this.room.prepend(this.renderer.domElement);
    this.scene.add(new THREE.HemisphereLight("#fffaf0", "#b9a88c", 1.7), this.sun, this.planes);

    // One mesh per material: few draws, and parts stay known by the triangle.
    const byMaterial = new Map<number, number[]>();
    for (let t = 0; t < this.parts.length; t++) {
      const material = this.head.part_material[this.parts[t]!]!;
      let rows = byMaterial.get(material);
      if (!rows) byMaterial.set(material, (rows = []));
      rows.push(t);
    }
    for (const [material, rows] of byMaterial) {
      const { colour, opacity } = this.head.materials[material]!;
      const points = new Float32Array(rows.length * 9);
      rows.forEach((t, i) => points.set(this.positions.subarray(t * 9, t * 9 + 9), i * 9));
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
      geometry.computeVertexNormals();
      const clear = opacity < 0.6;
      const tone = new THREE.Color(colour).lerp(new THREE.Color("#fbf8f1"), 0.35);
      const front = new THREE.MeshLambertMaterial({
        color: tone,
        side: clear ? THREE.DoubleSide : THREE.FrontSide,
        transparent: clear,
        opacity: clear ? 0.28 : 1,
        depthWrite: !clear,
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      });
      const mesh = new THREE.Mesh(geometry, front);
      mesh.userData = { rows };
      this.meshes.push(mesh);
      this.scene.add(mesh);
      if (!clear) {
        // Seen from inside, a body that is cut open shows graphite: the poche to come.
        const inside = new THREE.MeshBasicMaterial({ color: "#2e2a27", side: THREE.BackSide });
        this.scene.add(new THREE.Mesh(geometry, inside));
      }
    }
    const lines = new THREE.BufferGeometry();
    lines.setAttribute("position", new THREE.BufferAttribute(floats("edges"), 3));
    this.scene.add(new THREE.LineSegments(lines, new THREE.LineBasicMaterial({ color: "#4a443e", transparent: true, opacity: 0.38 })));
    this.picked = new THREE.Mesh(
      new THREE.BufferGeometry(),
      new THREE.MeshBasicMaterial({ color: "#b2472a", transparent: true, opacity: 0.55, depthTest: true, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -1 }),
    );
    this.scene.add(this.picked);
    this.camera.matrixAutoUpdate = false;
  }

  /** Show a view; drawn with the next frame of the screen. */
  show(view: View, scale: number, centre: Vec, part: number | null): void {
    const width = this.room.clientWidth;
    const height = this.room.clientHeight;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    this.camera.projectionMatrix.copy(this.clipMatrix(view, scale, centre, width, height));
    this.camera.projectionMatrixInverse.copy(this.camera.projectionMatrix).invert();

    const sun = view.sun ?? { azimuth: 135, altitude: 40 };
    const azimuth = ((sun.azimuth ?? 135) * Math.PI) / 180;
    const altitude = ((sun.altitude ?? 40) * Math.PI) / 180;
    this.sun.position.set(Math.sin(azimuth) * Math.cos(altitude), Math.cos(azimuth) * Math.cos(altitude), Math.sin(altitude));
    this.sun.intensity = altitude > 0 ? 2.1 : 0;

    const o = this.head.origin;
    const clip = (view.cuts ?? []).map((cut) => {
      const normal = new THREE.Vector3(...(cut.normal as Vec)).normalize().negate();
      const point = new THREE.Vector3(...(cut.point as Vec)).sub(new THREE.Vector3(...o));
      return new THREE.Plane(normal, -normal.dot(point));
    });
    this.scene.traverse((thing) => {
      const material = (thing as THREE.Mesh).material as THREE.Material | undefined;
      if (material && !this.planes.children.includes(thing)) material.clippingPlanes = clip;
    });
    this.drawPlanes(view.cuts ?? []);

    const rows: number[] = [];
    if (part !== null) for (let t = 0; t < this.parts.length; t++) if (this.parts[t] === part) rows.push(t);
    const points = new Float32Array(rows.length * 9);
    rows.forEach((t, i) => points.set(this.positions.subarray(t * 9, t * 9 + 9), i * 9));
    this.picked.geometry.dispose();
    this.picked.geometry = new THREE.BufferGeometry().setAttribute("position", new THREE.BufferAttribute(points, 3));
    this.picked.frustumCulled = false;

    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.renderer.render(this.scene, this.camera));
  }

  /** From metres about the middle to clip space: the frame's matrix, the paper in the middle of the room. */
  private clipMatrix(view: View, scale: number, centre: Vec, width: number, height: number): THREE.Matrix4 {
    const m = frameMatrix(view, scale, centre);
    const w = view.frame?.width ?? 420;
    const h = view.frame?.height ?? 297;
    const perMm = Math.min((width - 48) / w, (height - 48) / h);
    const o = this.head.origin;
    const about = (row: number[]) => [row[0]!, row[1]!, row[2]!, row[3]! + row[0]! * o[0] + row[1]! * o[1] + row[2]! * o[2]];
    const [x, y, z, d] = [about(m[0]!), about(m[1]!), about(m[2]!), about(m[3]!)];
    const kx = (2 * perMm) / width;
    const ky = (-2 * perMm) / height;
    const cx = x.map((v, i) => kx * (v - (w / 2) * d[i]!));
    const cy = y.map((v, i) => ky * (v - (h / 2) * d[i]!));
    let cz: number[];
    if (view.projection.kind === "perspective") {
      const far = Math.max(10, Math.abs(d[3]!) + 2 * this.radius);
      const near = Math.max(0.05, Math.min(d[3]! - this.radius, far / 50));
      const a = (far + near) / (far - near);
      cz = d.map((v, i) => a * v - (i === 3 ? (2 * far * near) / (far - near) : 0));
    } else {
      cz = z.map((v, i) => (i === 3 ? (v - z[3]!) / (1.2 * this.radius) : v / (1.2 * this.radius)));
    }
    return new THREE.Matrix4().set(...(cx as [number, number, number, number]), ...(cy as [number, number, number, number]), ...(cz as [number, number, number, number]), ...(d as [number, number, number, number]));
  }

  /** Cutting planes as chain lines around the model, with arrows to the side that stays. */
  private drawPlanes(cuts: readonly Cut[]): void {
    for (const child of [...this.planes.children]) {
      this.planes.remove(child);
      (child as THREE.Line).geometry.dispose();
    }
    const half = [0, 1, 2].map((k) => (this.head.high[k]! - this.head.low[k]!) / 2 + 0.6);
    for (const cut of cuts) {
      const normal = new THREE.Vector3(...(cut.normal as Vec)).normalize();
      const point = new THREE.Vector3(...(cut.point as Vec)).sub(new THREE.Vector3(...this.head.origin));
      const aside = Math.abs(normal.z) < 0.9 ? new THREE.Vector3(0, 0, 1) : new THREE.Vector3(0, 1, 0);
      const u = aside.clone().cross(normal).normalize();
      const v = normal.clone().cross(u);
      const reach = (axis: THREE.Vector3) => Math.abs(axis.x) * half[0]! + Math.abs(axis.y) * half[1]! + Math.abs(axis.z) * half[2]!;
      const foot = normal.clone().multiplyScalar(normal.dot(point));
      const corners = [[-1, -1], [1, -1], [1, 1], [-1, 1], [-1, -1]].map(([a, b]) =>
        foot.clone().addScaledVector(u, a! * reach(u)).addScaledVector(v, b! * reach(v)),
      );
      const dash = this.radius / 18;
      const chain: THREE.Vector3[] = [];
      for (let i = 0; i < 4; i++) {
        const run = corners[i + 1]!.clone().sub(corners[i]!);
        const total = run.length();
        run.normalize();
        for (let s = 0, k = 0; s < total; k++) {
          const mark = k % 2 ? dash * 0.18 : dash;
          chain.push(corners[i]!.clone().addScaledVector(run, s), corners[i]!.clone().addScaledVector(run, Math.min(s + mark, total)));
          s += mark + dash * 0.3;
        }
      }
      for (const corner of corners.slice(0, 4)) {
        const tip = corner.clone().addScaledVector(normal, -dash * 1.4);
        chain.push(corner, tip, tip, tip.clone().addScaledVector(normal, dash * 0.5).addScaledVector(u, dash * 0.3), tip, tip.clone().addScaledVector(normal, dash * 0.5).addScaledVector(u, -dash * 0.3));
      }
      const geometry = new THREE.BufferGeometry().setFromPoints(chain);
      const ink = new THREE.LineBasicMaterial({ color: cut.role === "limit" ? "#6b635b" : "#b2472a", depthTest: false });
      const lines = new THREE.LineSegments(geometry, ink);
      lines.frustumCulled = false;
      lines.renderOrder = 5;
      this.planes.add(lines);
    }
  }

  /** The part under a point of the room, in pixels. */
  pick(x: number, y: number): number | null {
    const inverse = this.camera.projectionMatrixInverse;
    const nx = (x / this.room.clientWidth) * 2 - 1;
    const ny = 1 - (y / this.room.clientHeight) * 2;
    const from = new THREE.Vector3(nx, ny, -1).applyMatrix4(inverse);
    const to = new THREE.Vector3(nx, ny, 1).applyMatrix4(inverse);
    const caster = new THREE.Raycaster(from, to.clone().sub(from).normalize());
    const planes = (this.meshes[0]?.material as THREE.Material | undefined)?.clippingPlanes ?? [];
    for (const hit of caster.intersectObjects(this.meshes, false)) {
      if (planes.some((p) => p.distanceToPoint(hit.point) < 0)) continue;
      const rows = hit.object.userData.rows as number[];
      return this.parts[rows[hit.faceIndex!]!]!;
    }
    return null;
  }

  dispose(): void {
    cancelAnimationFrame(this.asked);
    this.scene.traverse((thing) => {
      const mesh = thing as THREE.Mesh;
      mesh.geometry?.dispose();
      (mesh.material as THREE.Material | undefined)?.dispose?.();
    });
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}
