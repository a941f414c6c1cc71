import * as THREE from "three";

import type { Cut, View } from "../api/client";
import { frameMatrix, type Vec } from "../benches/view/camera";
import { stepsOf, whollyGone } from "./cuts";
import { type Hit, type Look, type Span, STATE } from "./look";

type Head = { origin: Vec; low: Vec; high: Vec; blocks: Record<string, [number, number]> };

type Box = { x0: number; y0: number; x1: number; y1: number };

/** Planes that the shaders know, a stepped cut counting once for each step; more are left to the drawing. */
const MOST_PLANES = 16;
/** Faces that a plane snaps to have at least this share of the area of the largest one that lies its way. */
const LEAST_FACE = 0.004;
/** Models with more triangles or edges than this are drawn lightly while the view is being moved. */
const HEAVY = 60_000;
/** Milliseconds that a frame of a heavy model may take while it is moved, and the least share of it that is drawn. */
const SLOW = 100;
const LEAST = 0.03;
/** Parts in one row of the look's picture. */
const ROW = 1024;

const COMMON = /* glsl */ `
  precision highp float;
  precision highp int;
  uniform sampler2D tones;
  uniform sampler2D states;
  uniform vec4 planes[${MOST_PLANES}];
  uniform vec3 ways[${MOST_PLANES}];
  uniform vec2 stretches[${MOST_PLANES}];
  uniform bool limits[${MOST_PLANES}];
  uniform int planeCount;
  uniform float hair;
  uniform vec3 boxLow;
  uniform vec3 boxHigh;
  uniform bool boxed;
  bool bit(int state, int what) { return (state & what) != 0; }
  ivec2 place(float part) { int p = int(part + 0.5); return ivec2(p % ${ROW}, p / ${ROW}); }
  int stateAt(float part) { return int(texelFetch(states, place(part), 0).r * 255.0 + 0.5); }
  bool cutAway(vec3 at, int state) {
    if (boxed && (any(lessThan(at, boxLow)) || any(greaterThan(at, boxHigh)))) return true;
    for (int i = 0; i < planeCount; i++) {
      // What planes leave whole is still limited.
      if (bit(state, ${STATE.uncut}) && !limits[i]) continue;
      float along = dot(ways[i], at);
      if (dot(planes[i].xyz, at) + planes[i].w < -hair && along >= stretches[i].x && along <= stretches[i].y) return true;
    }
    return false;
  }`;

const BODY_VERTEX = /* glsl */ `${COMMON}
  in float part;
  uniform bool clearPass;
  flat out vec4 tone;
  flat out int state;
  flat out int number;
  out vec3 at;
  void main() {
    state = stateAt(part);
    number = int(part + 0.5);
    tone = texelFetch(tones, place(part), 0);
    at = position;
    bool other = (tone.a < 0.6) != clearPass;
    gl_Position = other || bit(state, ${STATE.hidden | STATE.gone}) ? vec4(2.0, 2.0, 2.0, 1.0) : projectionMatrix * vec4(position, 1.0);
  }`;

const BODY_FRAGMENT = /* glsl */ `${COMMON}
  uniform vec3 sun;
  uniform bool clearPass;
  uniform bool poche;
  uniform bool mirrored;
  flat in vec4 tone;
  flat in int state;
  in vec3 at;
  out vec4 ink;
  void main() {
    if (cutAway(at, state)) discard;
    vec3 colour = tone.rgb;
    if (poche && gl_FrontFacing == mirrored && !clearPass && !bit(state, ${STATE.uncut})) {
      // Seen from inside, a body that is cut open shows its poche to come.
      colour = bit(state, ${STATE.earth}) ? vec3(0.79, 0.73, 0.63) : vec3(0.18, 0.165, 0.153);
    } else {
      vec3 n = normalize(cross(dFdx(at), dFdy(at)));
      if (gl_FrontFacing == mirrored) n = -n;
      if (mirrored) n = -n;
      vec3 sky = mix(vec3(0.60, 0.54, 0.47), vec3(0.80, 0.79, 0.76), n.z * 0.5 + 0.5);
      colour *= sky + vec3(0.36, 0.34, 0.30) * max(abs(dot(n, sun)) * (dot(n, sun) > 0.0 ? 1.0 : 0.15), 0.0);
    }
    if (bit(state, ${STATE.chosen})) colour = mix(colour, vec3(0.70, 0.28, 0.165), 0.6);
    ink = vec4(colour, clearPass ? 0.32 : 1.0);
  }`;

/** Which part each pixel shows, as a colour; beside it the depth is kept. Faces that close a cut have no part's number. */
const PART_FRAGMENT = /* glsl */ `${COMMON}
  uniform bool clearPass;
  flat in vec4 tone;
  flat in int state;
  flat in int number;
  in vec3 at;
  out vec4 ink;
  void main() {
    if (cutAway(at, state)) discard;
    ink = vec4(float(number & 255), float((number >> 8) & 255), float((number >> 16) & 255), 255.0) / 255.0;
  }`;

const CAP_VERTEX = /* glsl */ `
  in vec3 fill;
  out vec3 colour;
  void main() {
    colour = fill;
    gl_Position = projectionMatrix * vec4(position, 1.0);
  }`;

const CAP_FRAGMENT = /* glsl */ `
  precision highp float;
  uniform bool bare;
  in vec3 colour;
  out vec4 ink;
  void main() { ink = vec4(bare ? vec3(1.0) : colour, 1.0); }`;

const EDGE_VERTEX = /* glsl */ `${COMMON}
  in float part;
  flat out int state;
  flat out int number;
  out vec3 at;
  void main() {
    state = stateAt(part);
    number = int(part + 0.5);
    at = position;
    gl_Position = bit(state, ${STATE.hidden | STATE.gone}) ? vec4(2.0, 2.0, 2.0, 1.0) : projectionMatrix * vec4(position, 1.0);
  }`;

/**
 * An edge lies in its own part's faces, and on a steep face the depth runs on within a pixel. So it is drawn where nothing is
 * nearer, or where its own part is seen close by at a depth that its slope explains: what lies under a roof does not shine through it.
 */
const EDGE_FRAGMENT = /* glsl */ `${COMMON}
  uniform sampler2D shownParts;
  uniform sampler2D shownDepths;
  flat in int state;
  flat in int number;
  in vec3 at;
  out vec4 ink;
  void main() {
    if (cutAway(at, state)) discard;
    ivec2 here = ivec2(gl_FragCoord.xy);
    ivec2 last = textureSize(shownDepths, 0) - 1;
    float depth = gl_FragCoord.z;
    float low = 2.0, high = -1.0;
    int closed = 0;
    bool beside = false;
    for (int y = -1; y <= 1; y++) for (int x = -1; x <= 1; x++) {
      ivec2 there = clamp(here + ivec2(x, y), ivec2(0), last);
      ivec3 c = ivec3(texelFetch(shownParts, there, 0).rgb * 255.0 + 0.5);
      float d = texelFetch(shownDepths, there, 0).r;
      if (c == ivec3(255) && d < 1.0) {
        closed++;
        beside = beside || abs(depth - d) < 2e-4;
      }
      if (c.r + 256 * c.g + 65536 * c.b != number) continue;
      low = min(low, d);
      high = max(high, d);
    }
    // What lies within a face that closes a cut does not show on it; what bounds the face does.
    bool bounds = beside && closed < 9;
    float nearest = texelFetch(shownDepths, here, 0).r;
    if (closed == 9 && depth > nearest - 2e-5) discard;
    if (!bounds && depth > nearest + 1e-6 && depth > high + (high - low) + 1e-6) discard;
    ink = bit(state, ${STATE.chosen}) ? vec4(0.55, 0.18, 0.09, 0.9) : vec4(0.29, 0.266, 0.243, 0.40);
  }`;

/** Scene, light and camera of the model view. World coordinates are metres about the model's middle. */
export class ModelStage {
  readonly head: Head;
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.Camera();
  private readonly parts: Uint32Array;
  private readonly positions: Float32Array;
  private readonly triangles: Uint32Array;
  private readonly clearBodies: THREE.Mesh;
  /** The same bodies, each in the colour of its number, for the look under the edges. */
  private readonly numbered: THREE.Mesh;
  private readonly beneath = new THREE.Scene();
  private readonly under: THREE.WebGLRenderTarget;
  private readonly caps: THREE.Mesh;
  private readonly bareCaps: THREE.Mesh;
  private cuts: readonly Cut[] = [];
  private goneParts: ReadonlySet<number> = new Set();
  private said: Uint8Array = new Uint8Array(0);
  private readonly edges: THREE.LineSegments;
  private readonly edgeCount: number;
  private readonly planes = new THREE.Group();
  private readonly marks = new THREE.Group();
  private readonly ring = ringPicture();
  private readonly radius: number;
  private readonly shared: Record<string, THREE.IUniform>;
  private state: Uint8Array = new Uint8Array(0);
  private asked = 0;
  private moving = false;
  private painted = 0;
  private begun = 0;
  private timed = false;
  private share = 1;
  private rest: ReturnType<typeof setTimeout> | undefined;
  private clip = new THREE.Matrix4();

  constructor(
    private readonly room: HTMLDivElement,
    data: ArrayBuffer,
  ) {
    const size = new DataView(data).getUint32(0, true);
    this.head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as Head;
    const block = (name: string): [number, number] => {
      const [at, bytes] = this.head.blocks[name]!;
      return [4 + size + at, bytes / 4];
    };
    this.positions = new Float32Array(data, ...block("positions"));
    this.parts = new Uint32Array(data, ...block("parts"));
    this.triangles = new Uint32Array(data, ...block("triangles"));
    const edges = new Float32Array(data, ...block("edges"));
    const edgeParts = new Uint32Array(data, ...block("edge_parts"));
    this.edgeCount = edgeParts.length;
    this.radius = Math.max(1e-3, Math.hypot(...[0, 1, 2].map((k) => (this.head.high[k]! - this.head.low[k]!) / 2)));

    this.renderer = new THREE.WebGLRenderer({ antialias: !withoutGraphics(), alpha: true });
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace; // tones are the screen's own already
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.domElement.className = "absolute inset-0";
    this.room.prepend(this.renderer.domElement);

    const blank = () =>
      new THREE.DataTexture(new Uint8Array(4 * ROW), ROW, 1, THREE.RGBAFormat, THREE.UnsignedByteType);
    this.shared = {
      tones: { value: blank() },
      states: { value: blank() },
      planes: { value: Array.from({ length: MOST_PLANES }, () => new THREE.Vector4(0, 0, 0, 1)) },
      ways: { value: Array.from({ length: MOST_PLANES }, () => new THREE.Vector3()) },
      stretches: { value: Array.from({ length: MOST_PLANES }, () => new THREE.Vector2(-1, 1)) },
      limits: { value: Array.from({ length: MOST_PLANES }, () => false) },
      planeCount: { value: 0 },
      // A face that lies in a cutting plane stays, whatever single precision makes of it.
      hair: { value: 4e-6 * this.radius },
      mirrored: { value: false },
      boxLow: { value: new THREE.Vector3() },
      boxHigh: { value: new THREE.Vector3() },
      boxed: { value: false },
      sun: { value: new THREE.Vector3(0, 0, 1) },
      poche: { value: false },
    };
    const spread = (numbers: Uint32Array, times: number) => {
      const out = new Float32Array(numbers.length * times);
      for (let i = 0; i < numbers.length; i++) out.fill(numbers[i]!, i * times, (i + 1) * times);
      return out;
    };
    // One buffer for all: how a part looks is read from a picture with a pixel for each part, so hiding, choosing and
    // colouring twenty thousand of them sends no triangle again.
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(this.positions, 3));
    geometry.setAttribute("part", new THREE.BufferAttribute(spread(this.parts, 1), 1));
    geometry.setIndex(new THREE.BufferAttribute(this.triangles, 1));
    const bodies = [false, true].map((clearPass) => {
      const mesh = new THREE.Mesh(geometry, this.bodyMaterial(clearPass));
      mesh.frustumCulled = false;
      mesh.renderOrder = clearPass ? 2 : 0;
      return mesh;
    });
    this.clearBodies = bodies[1]!;
    this.scene.add(...bodies);
    this.numbered = new THREE.Mesh(geometry, this.bodyMaterial(false, PART_FRAGMENT));
    this.numbered.frustumCulled = false;
    this.under = new THREE.WebGLRenderTarget(1, 1, {
      minFilter: THREE.NearestFilter,
      magFilter: THREE.NearestFilter,
      generateMipmaps: false,
    });
    this.under.depthTexture = new THREE.DepthTexture(1, 1, THREE.UnsignedIntType);
    const caps = [false, true].map((bare) => {
      const mesh = new THREE.Mesh(
        new THREE.BufferGeometry(),
        new THREE.ShaderMaterial({
          glslVersion: THREE.GLSL3,
          vertexShader: CAP_VERTEX,
          fragmentShader: CAP_FRAGMENT,
          uniforms: { bare: { value: bare } },
          side: THREE.DoubleSide,
        }),
      );
      mesh.frustumCulled = false;
      mesh.visible = false;
      return mesh;
    });
    this.caps = caps[0]!;
    this.bareCaps = caps[1]!;
    this.scene.add(this.caps);
    this.beneath.add(this.numbered, this.bareCaps);
    const lines = new THREE.BufferGeometry();
    lines.setAttribute("position", new THREE.BufferAttribute(edges, 3));
    lines.setAttribute("part", new THREE.BufferAttribute(spread(edgeParts, 2), 1));
    const ink = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: EDGE_VERTEX,
      fragmentShader: EDGE_FRAGMENT,
      uniforms: {
        ...this.shared,
        shownParts: { value: this.under.texture },
        shownDepths: { value: this.under.depthTexture },
      },
      transparent: true,
      depthTest: false,
      depthWrite: false,
    });
    this.edges = new THREE.LineSegments(lines, ink);
    this.edges.frustumCulled = false;
    this.edges.renderOrder = 1;
    this.scene.add(this.edges, this.planes, this.marks);
    this.camera.matrixAutoUpdate = false;
  }

  private bodyMaterial(clearPass: boolean, fragmentShader = BODY_FRAGMENT): THREE.ShaderMaterial {
    return new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: BODY_VERTEX,
      fragmentShader,
      uniforms: { ...this.shared, clearPass: { value: clearPass } },
      side: THREE.DoubleSide,
      transparent: clearPass,
      depthWrite: !clearPass,
    });
  }

  /**
   * The faces that close the cuts, as the core found them (see the API's `caps`); `null` where they are not known, or a plane is
   * being moved: then one sees into what is cut.
   */
  close(data: ArrayBuffer | null): void {
    const geometry = new THREE.BufferGeometry();
    if (data) {
      const size = new DataView(data).getUint32(0, true);
      const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as {
        origin: Vec;
        fills: [string, number, number][];
      };
      const corners = new Float32Array(data.slice(4 + size));
      const move = [0, 1, 2].map((k) => head.origin[k]! - this.head.origin[k]!);
      for (let i = 0; i < corners.length; i++) corners[i]! += move[i % 3]!;
      const fill = new Float32Array(corners.length);
      for (const [colour, first, count] of head.fills) {
        const rgb = [1, 3, 5].map((i) => parseInt(colour.slice(i, i + 2), 16) / 255);
        for (let i = 3 * first; i < 3 * (first + count); i++) fill[i] = rgb[i % 3]!;
      }
      geometry.setAttribute("position", new THREE.BufferAttribute(corners, 3));
      geometry.setAttribute("fill", new THREE.BufferAttribute(fill, 3));
    }
    this.caps.geometry.dispose();
    this.caps.geometry = this.bareCaps.geometry = geometry;
    this.caps.visible = this.bareCaps.visible = data !== null;
    this.openCuts();
    this.draw();
  }

  /** Whether what one sees inside of bodies stands in for the faces that close their cuts. */
  private openCuts(): void {
    this.shared.poche!.value = (this.shared.boxed!.value as boolean) || (this.cuts.length > 0 && !this.caps.visible);
  }

  /** Lay down how the parts look; drawn with the next frame of the screen. */
  look({ tone, state }: Look): void {
    const count = state.length;
    const rows = Math.max(1, Math.ceil(count / ROW));
    const data = new Uint8Array(4 * ROW * rows);
    data.set(tone);
    (this.shared.tones!.value as THREE.Texture).dispose();
    this.shared.tones!.value = pictureOf(data, rows);
    this.said = state;
    this.layStates();
    this.clearBodies.visible = tone.some((v, i) => i % 4 === 3 && v < 153);
    this.draw();
  }

  /** Lay down what is said of the parts, with those gone that lie wholly in what a plane takes away. */
  private layStates(): void {
    const origin = this.head.origin;
    this.goneParts = whollyGone(
      this.positions,
      this.parts,
      (n) => ((this.said[n] ?? 0) & STATE.uncut) !== 0,
      this.cuts,
      origin,
    );
    this.state = this.said.slice();
    for (const n of this.goneParts) this.state[n]! |= STATE.gone;
    const rows = Math.max(1, Math.ceil(this.state.length / ROW));
    const data = new Uint8Array(4 * ROW * rows);
    this.state.forEach((s, i) => (data[4 * i] = s));
    (this.shared.states!.value as THREE.Texture).dispose();
    this.shared.states!.value = pictureOf(data, rows);
  }

  /** Show a view; drawn with the next frame of the screen. */
  show(view: View, scale: number, centre: Vec): void {
    const width = this.room.clientWidth;
    const height = this.room.clientHeight;
    if (!width || !height) return;
    this.renderer.setSize(width, height);
    this.clip = this.clipMatrix(view, scale, centre, width, height);
    this.camera.projectionMatrix.copy(this.clip);
    this.camera.projectionMatrixInverse.copy(this.clip).invert();

    const sun = view.sun ?? { azimuth: 135, altitude: 40 };
    const azimuth = ((sun.azimuth ?? 135) * Math.PI) / 180;
    const altitude = ((sun.altitude ?? 40) * Math.PI) / 180;
    (this.shared.sun!.value as THREE.Vector3).set(
      Math.sin(azimuth) * Math.cos(altitude),
      Math.cos(azimuth) * Math.cos(altitude),
      Math.sin(altitude),
    );

    const steps = (view.cuts ?? []).flatMap((cut) => stepsOf(cut)).slice(0, MOST_PLANES);
    const planes = this.shared.planes!.value as THREE.Vector4[];
    const ways = this.shared.ways!.value as THREE.Vector3[];
    const stretches = this.shared.stretches!.value as THREE.Vector2[];
    const limits = this.shared.limits!.value as boolean[];
    const o = new THREE.Vector3(...this.head.origin);
    steps.forEach((step, i) => {
      const n = new THREE.Vector3(...step.normal).negate();
      const way = new THREE.Vector3(...step.way);
      planes[i]!.set(n.x, n.y, n.z, -n.dot(new THREE.Vector3(...step.point).sub(o)));
      ways[i]!.copy(way);
      stretches[i]!.set(step.from - o.dot(way), step.to - o.dot(way));
      limits[i] = step.role === "limit";
    });
    this.shared.planeCount!.value = steps.length;
    this.shared.mirrored!.value = view.projection.kind === "parallel" && view.projection.mirrored;
    const cuts = view.cuts ?? [];
    const moved = JSON.stringify(cuts) !== JSON.stringify(this.cuts);
    this.cuts = cuts;
    if (moved) this.layStates();
    this.openCuts();
    this.drawPlanes(cuts);
    if (this.triangles.length / 3 > HEAVY || this.edgeCount > HEAVY) {
      if (!this.moving) this.begun = performance.now();
      if (!this.timed && this.state.length) this.share = Math.min(1, Math.max(LEAST, (0.5 * SLOW) / this.frameTime()));
      this.timed ||= this.state.length > 0;
      this.moving = true;
      clearTimeout(this.rest);
      this.rest = setTimeout(
        () => {
          this.moving = false;
          this.draw();
        },
        2 * SLOW + 80,
      );
    }
    this.draw();
  }

  /** Show only what lies within a box, in metres; `null` shows all. */
  within(span: Span | null): void {
    this.shared.boxed!.value = span !== null;
    if (span) {
      // What lies at the very end of the model stays, whatever single precision makes of it.
      const slack = 1e-4 * this.radius;
      const o = this.head.origin;
      (this.shared.boxLow!.value as THREE.Vector3).set(
        span.low[0] - o[0] - slack,
        span.low[1] - o[1] - slack,
        span.low[2] - o[2] - slack,
      );
      (this.shared.boxHigh!.value as THREE.Vector3).set(
        span.high[0] - o[0] + slack,
        span.high[1] - o[1] + slack,
        span.high[2] - o[2] + slack,
      );
    }
    this.openCuts();
    this.draw();
  }

  /** Where a point in metres lies in the room, in pixels; `null` behind the viewer. */
  onScreen(point: Vec): [number, number] | null {
    const o = this.head.origin;
    const v = new THREE.Vector4(point[0] - o[0], point[1] - o[1], point[2] - o[2], 1).applyMatrix4(this.clip);
    if (v.w <= 1e-9) return null;
    return [((v.x / v.w + 1) / 2) * this.room.clientWidth, ((1 - v.y / v.w) / 2) * this.room.clientHeight];
  }

  /** The part under a point of the room, in pixels, where it is hit, and the corner nearby if one is. */
  pick(x: number, y: number): Hit | null {
    const inverse = this.camera.projectionMatrixInverse;
    const nx = (x / this.room.clientWidth) * 2 - 1;
    const ny = 1 - (y / this.room.clientHeight) * 2;
    const from = new THREE.Vector3(nx, ny, -1).applyMatrix4(inverse);
    const way = new THREE.Vector3(nx, ny, 1).applyMatrix4(inverse).sub(from);
    const p = this.positions;
    let best = Infinity;
    let found = -1;
    const index = this.triangles;
    for (let t = 0; t < index.length; t += 3) {
      const state = this.state[this.parts[index[t]!]!] ?? 0;
      if (state & (STATE.hidden | STATE.gone)) continue;
      const i = 3 * index[t]!,
        j = 3 * index[t + 1]!,
        k = 3 * index[t + 2]!;
      // Möller and Trumbore, "Fast, minimum storage ray/triangle intersection", 1997.
      const ax = p[i]!,
        ay = p[i + 1]!,
        az = p[i + 2]!;
      const bx = p[j]! - ax,
        by = p[j + 1]! - ay,
        bz = p[j + 2]! - az;
      const cx = p[k]! - ax,
        cy = p[k + 1]! - ay,
        cz = p[k + 2]! - az;
      const hx = way.y * cz - way.z * cy,
        hy = way.z * cx - way.x * cz,
        hz = way.x * cy - way.y * cx;
      const det = bx * hx + by * hy + bz * hz;
      if (det === 0) continue;
      const sx = from.x - ax,
        sy = from.y - ay,
        sz = from.z - az;
      const u = (sx * hx + sy * hy + sz * hz) / det;
      if (u < 0 || u > 1) continue;
      const qx = sy * bz - sz * by,
        qy = sz * bx - sx * bz,
        qz = sx * by - sy * bx;
      const v = (way.x * qx + way.y * qy + way.z * qz) / det;
      if (v < 0 || u + v > 1) continue;
      const d = (cx * qx + cy * qy + cz * qz) / det;
      if (d <= 0 || d >= best) continue;
      if (this.away(from.x + d * way.x, from.y + d * way.y, from.z + d * way.z, state)) continue;
      best = d;
      found = t;
    }
    if (found < 0) return null;
    const o = this.head.origin;
    const at = from.clone().addScaledVector(way, best);
    let corner: Vec | null = null;
    let near = 9;
    for (let k = 0; k < 3; k++) {
      const i = 3 * index[found + k]!;
      const point: Vec = [p[i]! + o[0], p[i + 1]! + o[1], p[i + 2]! + o[2]];
      const screen = this.onScreen(point);
      const gap = screen ? Math.hypot(screen[0] - x, screen[1] - y) : Infinity;
      if (gap < near) [near, corner] = [gap, point];
    }
    return { part: this.parts[index[found]!]!, point: [at.x + o[0], at.y + o[1], at.z + o[2]], corner };
  }

  private away(x: number, y: number, z: number, state: number): boolean {
    if (this.shared.boxed!.value as boolean) {
      const low = this.shared.boxLow!.value as THREE.Vector3;
      const high = this.shared.boxHigh!.value as THREE.Vector3;
      if (x < low.x || y < low.y || z < low.z || x > high.x || y > high.y || z > high.z) return true;
    }
    const limits = this.shared.limits!.value as boolean[];
    const planes = this.shared.planes!.value as THREE.Vector4[];
    const ways = this.shared.ways!.value as THREE.Vector3[];
    const stretches = this.shared.stretches!.value as THREE.Vector2[];
    for (let i = 0; i < (this.shared.planeCount!.value as number); i++) {
      if (state & STATE.uncut && !limits[i]) continue;
      const q = planes[i]!;
      const along = ways[i]!.x * x + ways[i]!.y * y + ways[i]!.z * z;
      if (q.x * x + q.y * y + q.z * z + q.w < 0 && along >= stretches[i]!.x && along <= stretches[i]!.y) return true;
    }
    return false;
  }

  /** Where a cutting plane is taken hold of: the middle of what it shows of itself, in metres. */
  handle(cut: Cut): Vec {
    const normal = new THREE.Vector3(...(cut.normal as Vec)).normalize();
    const middle = new THREE.Vector3(...this.head.origin);
    const by = normal.dot(new THREE.Vector3(...(cut.point as Vec)).sub(middle));
    const at = middle.addScaledVector(normal, by);
    return [at.x, at.y, at.z];
  }

  /** Metres along a direction at which faces of the model lie square to it, the larger ones only, from the least on. */
  faces(direction: Vec): number[] {
    const n = new THREE.Vector3(...direction).normalize();
    const p = this.positions;
    const o = new THREE.Vector3(...this.head.origin).dot(n);
    const area = new Map<number, number>();
    for (let t = 0; t < this.triangles.length; t += 3) {
      if ((this.state[this.parts[this.triangles[t]!]!] ?? 0) & (STATE.hidden | STATE.gone)) continue;
      const i = 3 * this.triangles[t]!,
        j = 3 * this.triangles[t + 1]!,
        k = 3 * this.triangles[t + 2]!;
      const bx = p[j]! - p[i]!,
        by = p[j + 1]! - p[i + 1]!,
        bz = p[j + 2]! - p[i + 2]!;
      const cx = p[k]! - p[i]!,
        cy = p[k + 1]! - p[i + 1]!,
        cz = p[k + 2]! - p[i + 2]!;
      const x = by * cz - bz * cy,
        y = bz * cx - bx * cz,
        z = bx * cy - by * cx;
      const size = Math.hypot(x, y, z);
      if (size === 0 || Math.abs(x * n.x + y * n.y + z * n.z) < 0.9999 * size) continue;
      const at = Math.round((o + p[i]! * n.x + p[i + 1]! * n.y + p[i + 2]! * n.z) * 1000);
      area.set(at, (area.get(at) ?? 0) + size);
    }
    const least = LEAST_FACE * Math.max(0, ...area.values());
    return [...area].flatMap(([at, size]) => (size >= least ? [at / 1000] : [])).sort((a, b) => a - b);
  }

  /** The shown parts that a rectangle of the room touches, or, `wholly`, that lie inside it with every triangle. */
  inside(x0: number, y0: number, x1: number, y1: number, wholly: boolean): number[] {
    const width = this.room.clientWidth;
    const height = this.room.clientHeight;
    const box: Box = {
      x0: (Math.min(x0, x1) / width) * 2 - 1,
      x1: (Math.max(x0, x1) / width) * 2 - 1,
      y0: 1 - (Math.max(y0, y1) / height) * 2,
      y1: 1 - (Math.min(y0, y1) / height) * 2,
    };
    const m = this.clip.elements;
    const touched = new Uint8Array(this.state.length);
    const outside = new Uint8Array(this.state.length);
    // Every point is projected once: where it lies, and whether it is behind the viewer or within the rectangle.
    const p = this.positions;
    const flat = new Float32Array((p.length / 3) * 2);
    const kind = new Uint8Array(p.length / 3);
    for (let v = 0, i = 0; i < p.length; v++, i += 3) {
      const w = m[3]! * p[i]! + m[7]! * p[i + 1]! + m[11]! * p[i + 2]! + m[15]!;
      const x = (flat[2 * v] = (m[0]! * p[i]! + m[4]! * p[i + 1]! + m[8]! * p[i + 2]! + m[12]!) / w);
      const y = (flat[2 * v + 1] = (m[1]! * p[i]! + m[5]! * p[i + 1]! + m[9]! * p[i + 2]! + m[13]!) / w);
      kind[v] = w <= 1e-9 ? 2 : x >= box.x0 && x <= box.x1 && y >= box.y0 && y <= box.y1 ? 1 : 0;
    }
    const corners = [0, 0, 0, 0, 0, 0];
    for (let t = 0; t < this.triangles.length; t += 3) {
      const part = this.parts[this.triangles[t]!]!;
      if ((this.state[part] ?? 0) & STATE.hidden || (wholly ? outside[part] : touched[part])) continue;
      let behind = false;
      let within = 0;
      for (let k = 0; k < 3; k++) {
        const v = this.triangles[t + k]!;
        if (kind[v] === 2) behind = true;
        else if (kind[v] === 1) within++;
        corners[2 * k] = flat[2 * v]!;
        corners[2 * k + 1] = flat[2 * v + 1]!;
      }
      if (behind || within < 3) outside[part] = 1;
      if (!behind && (within > 0 || touches(corners, box))) touched[part] = 1;
    }
    const found: number[] = [];
    touched.forEach((is, part) => is && !(wholly && outside[part]) && found.push(part));
    return found;
  }

  /** Rings around places worth looking at; the chosen one is larger. */
  mark(points: readonly Vec[], chosen: number | null): void {
    for (const child of [...this.marks.children]) {
      this.marks.remove(child);
      (child as THREE.Points).geometry.dispose();
      ((child as THREE.Points).material as THREE.Material).dispose();
    }
    const o = this.head.origin;
    const add = (rows: readonly Vec[], size: number) => {
      if (!rows.length) return;
      const geometry = new THREE.BufferGeometry().setFromPoints(
        rows.map((p) => new THREE.Vector3(p[0] - o[0], p[1] - o[1], p[2] - o[2])),
      );
      const dots = new THREE.Points(
        geometry,
        new THREE.PointsMaterial({ map: this.ring, size, sizeAttenuation: false, depthTest: false, transparent: true }),
      );
      dots.frustumCulled = false;
      dots.renderOrder = 6;
      this.marks.add(dots);
    };
    add(
      points.filter((_, i) => i !== chosen),
      11 * this.renderer.getPixelRatio(),
    );
    if (chosen !== null && points[chosen]) add([points[chosen]], 34 * this.renderer.getPixelRatio());
    this.draw();
  }

  private draw(): void {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => this.paint());
  }

  /**
   * While a heavy model is moved its edges wait, and of its triangles, the largest first, as many are drawn as keep the
   * rate even: all of them where a graphics processor is at work, fewer where there is none.
   */
  private paint(): void {
    const now = performance.now();
    const gap = now - this.painted;
    // Only the time since a frame of the same movement tells how long one takes.
    if (this.moving && this.painted >= this.begun) {
      const by = gap > 3 * SLOW ? 0.4 : gap > SLOW ? 0.75 : gap < SLOW / 2 ? 1.15 : 1;
      this.share = Math.min(1, Math.max(LEAST, this.share * by));
    }
    this.painted = now;
    this.edges.visible = !this.moving;
    const count = this.triangles.length;
    this.clearBodies.geometry.setDrawRange(0, this.moving ? 3 * Math.ceil((this.share * count) / 3) : count);
    if (this.edges.visible) this.lookBeneath();
    this.renderer.render(this.scene, this.camera);
  }

  /** What lies under the edges, for their shader to ask: the part of each pixel and its depth. */
  private lookBeneath(): void {
    const size = this.renderer.getDrawingBufferSize(new THREE.Vector2());
    if (this.under.width !== size.x || this.under.height !== size.y) this.under.setSize(size.x, size.y);
    this.renderer.setRenderTarget(this.under);
    this.renderer.setClearColor(0xffffff, 1);
    this.renderer.render(this.beneath, this.camera);
    this.renderer.setRenderTarget(null);
    this.renderer.setClearColor(0x000000, 0);
  }

  /** Milliseconds of one frame, drawn and waited for. */
  frameTime(): number {
    const gl = this.renderer.getContext();
    const start = performance.now();
    this.renderer.render(this.scene, this.camera);
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
    return performance.now() - start;
  }

  /** From metres about the middle to clip space: the frame's matrix, the paper in the middle of the room. */
  private clipMatrix(view: View, scale: number, centre: Vec, width: number, height: number): THREE.Matrix4 {
    const m = frameMatrix(view, scale, centre);
    const w = view.frame?.width ?? 420;
    const h = view.frame?.height ?? 297;
    const perMm = Math.min((width - 48) / w, (height - 48) / h);
    const o = this.head.origin;
    const about = (row: number[]) => [
      row[0]!,
      row[1]!,
      row[2]!,
      row[3]! + row[0]! * o[0] + row[1]! * o[1] + row[2]! * o[2],
    ];
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
    type Row = [number, number, number, number];
    return new THREE.Matrix4().set(...(cx as Row), ...(cy as Row), ...(cz as Row), ...(d as Row));
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
      if (cut.jogs.length) this.planes.add(this.trace(cut));
      const aside = Math.abs(normal.z) < 0.9 ? new THREE.Vector3(0, 0, 1) : new THREE.Vector3(0, 1, 0);
      const u = aside.clone().cross(normal).normalize();
      const v = normal.clone().cross(u);
      const reach = (axis: THREE.Vector3) =>
        Math.abs(axis.x) * half[0]! + Math.abs(axis.y) * half[1]! + Math.abs(axis.z) * half[2]!;
      const foot = normal.clone().multiplyScalar(normal.dot(point));
      const corners = [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
        [-1, -1],
      ].map(([a, b]) =>
        foot
          .clone()
          .addScaledVector(u, a! * reach(u))
          .addScaledVector(v, b! * reach(v)),
      );
      const dash = this.radius / 18;
      const chain: THREE.Vector3[] = [];
      for (let i = 0; i < 4; i++) {
        const run = corners[i + 1]!.clone().sub(corners[i]!);
        const total = run.length();
        run.normalize();
        for (let s = 0, k = 0; s < total; k++) {
          const mark = k % 2 ? dash * 0.18 : dash;
          chain.push(
            corners[i]!.clone().addScaledVector(run, s),
            corners[i]!.clone().addScaledVector(run, Math.min(s + mark, total)),
          );
          s += mark + dash * 0.3;
        }
      }
      for (const corner of corners.slice(0, 4)) {
        const tip = corner.clone().addScaledVector(normal, -dash * 1.4);
        chain.push(
          corner,
          tip,
          tip,
          tip
            .clone()
            .addScaledVector(normal, dash * 0.5)
            .addScaledVector(u, dash * 0.3),
          tip,
          tip
            .clone()
            .addScaledVector(normal, dash * 0.5)
            .addScaledVector(u, -dash * 0.3),
        );
      }
      const geometry = new THREE.BufferGeometry().setFromPoints(chain);
      const ink = new THREE.LineBasicMaterial({
        color: cut.role === "limit" ? "#6b635b" : "#b2472a",
        depthTest: false,
      });
      const lines = new THREE.LineSegments(geometry, ink);
      lines.frustumCulled = false;
      lines.renderOrder = 5;
      this.planes.add(lines);
    }
  }

  /** The trace of a stepped cut, at the height of the model's middle. */
  private trace(cut: Cut): THREE.Line {
    const origin = new THREE.Vector3(...this.head.origin);
    const far = 2 * this.radius;
    const points = stepsOf(cut).flatMap((step) => {
      const way = new THREE.Vector3(...step.way);
      const at = new THREE.Vector3(...step.point);
      const foot = at.clone().addScaledVector(way, -at.dot(way));
      const middle = origin.dot(way);
      return [Math.max(step.from, middle - far), Math.min(step.to, middle + far)].map((s) =>
        foot.clone().addScaledVector(way, s).setZ(origin.z).sub(origin),
      );
    });
    const line = new THREE.Line(
      new THREE.BufferGeometry().setFromPoints(points),
      new THREE.LineBasicMaterial({ color: "#b2472a", depthTest: false }),
    );
    line.frustumCulled = false;
    line.renderOrder = 5;
    return line;
  }

  dispose(): void {
    cancelAnimationFrame(this.asked);
    clearTimeout(this.rest);
    this.scene.traverse((thing) => {
      const mesh = thing as THREE.Mesh;
      mesh.geometry?.dispose();
      (mesh.material as THREE.Material | undefined)?.dispose?.();
    });
    (this.shared.tones!.value as THREE.Texture).dispose();
    (this.shared.states!.value as THREE.Texture).dispose();
    (this.numbered.material as THREE.Material).dispose();
    (this.bareCaps.material as THREE.Material).dispose();
    this.under.depthTexture?.dispose();
    this.under.dispose();
    this.ring.dispose();
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}

let software: boolean | undefined;

/** Whether the model is drawn by the processor alone: then each frame counts, and smooth edges cost four of them. */
function withoutGraphics(): boolean {
  if (software === undefined) {
    const gl = document.createElement("canvas").getContext("webgl2");
    const about = gl?.getExtension("WEBGL_debug_renderer_info");
    software = /swiftshader|llvmpipe|software|basic render/i.test(
      String(gl && about ? gl.getParameter(about.UNMASKED_RENDERER_WEBGL) : ""),
    );
    gl?.getExtension("WEBGL_lose_context")?.loseContext();
  }
  return software;
}

/** A picture with a pixel for each part. */
function pictureOf(data: Uint8Array, rows: number): THREE.DataTexture {
  const texture = new THREE.DataTexture(
    data as Uint8Array<ArrayBuffer>,
    ROW,
    rows,
    THREE.RGBAFormat,
    THREE.UnsignedByteType,
  );
  texture.needsUpdate = true;
  return texture;
}

/** The ring that a pencil draws around what is wrong. */
function ringPicture(): THREE.Texture {
  const canvas = Object.assign(document.createElement("canvas"), { width: 64, height: 64 });
  const pen = canvas.getContext("2d")!;
  for (const [ink, width] of [
    ["#fbf8f1", 13],
    ["#b2472a", 7],
  ] as const) {
    pen.strokeStyle = ink;
    pen.lineWidth = width;
    pen.beginPath();
    pen.arc(32, 32, 24, 0, 2 * Math.PI);
    pen.stroke();
  }
  return new THREE.CanvasTexture(canvas);
}

/** Whether a triangle with no corner in a box still reaches into it; corners as x, y, x, y, x, y. */
function touches(c: number[], box: Box): boolean {
  if (Math.max(c[0]!, c[2]!, c[4]!) < box.x0 || Math.min(c[0]!, c[2]!, c[4]!) > box.x1) return false;
  if (Math.max(c[1]!, c[3]!, c[5]!) < box.y0 || Math.min(c[1]!, c[3]!, c[5]!) > box.y1) return false;
  // Apart when all corners of the box lie outside one of the triangle's sides.
  const turn = Math.sign((c[2]! - c[0]!) * (c[5]! - c[1]!) - (c[4]! - c[0]!) * (c[3]! - c[1]!)) || 1;
  for (let k = 0; k < 6; k += 2) {
    const l = (k + 2) % 6;
    const side = (x: number, y: number) =>
      turn * ((c[l]! - c[k]!) * (y - c[k + 1]!) - (c[l + 1]! - c[k + 1]!) * (x - c[k]!));
    if (side(box.x0, box.y0) < 0 && side(box.x1, box.y0) < 0 && side(box.x0, box.y1) < 0 && side(box.x1, box.y1) < 0)
      return false;
  }
  return true;
}
