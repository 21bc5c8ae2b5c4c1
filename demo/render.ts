/** Draws a scene: height fields lit from one side, soft shadows, lens falloff, grain. */
import sharp from "sharp";
import { breadForm } from "./breads/forms";
import { fractal, grain, mix, noise, smooth, type Colour } from "./noise";
import { frame, type PlacedBread, type Scene } from "./scene";

const { width: W, height: H } = frame;
const coarse = 4;

/** The tray without anything on it, in linear light; drawn once a ground and kept. */
const grounds = new Map<Scene["ground"], Float32Array>();

/** A round metal bar seen from above, `distance` from its middle; null beside it. */
function barrel(distance: number, radius: number, worn: number): Colour | null {
  if (Math.abs(distance) > radius) return null;
  const across = distance / radius;
  const lit = Math.max(0, -across * 0.55 + Math.sqrt(1 - across * across) * 0.75);
  const shine = Math.max(0, 1 - Math.abs(across + 0.35) * 3.2) ** 2;
  const value = 0.07 + 0.17 * lit * worn + 0.4 * shine * worn;
  return [value, value * 1.01, value * 1.05];
}

function rackColour(x: number, y: number): Colour {
  const floor = 0.03 + 0.03 * fractal(x / 170, y / 150, 11, 3);
  let tone: Colour = [floor * 0.95, floor, floor * 1.08];
  const worn = 0.65 + 0.56 * fractal(x / 60, y / 34, 19, 2);
  const wire = barrel(((((x + 19) % 38) + 38) % 38) - 19, 4.1, worn);
  if (wire) tone = wire;
  for (const bar of [118, 360, 602]) {
    const rod = barrel(y - bar, 8, worn);
    if (rod) tone = rod;
  }
  return wire ? tone : mix(tone, [0, 0, 0], 0.25 * smooth(12, 4, x % 38));
}

function groundColour(ground: Scene["ground"], x: number, y: number): Colour {
  if (ground === "steel") {
    const brushed = fractal(x / 140, y / 1.3, 71, 3);
    const stain = fractal(x / 120, y / 90, 72, 3);
    const tone = 0.2 + (brushed - 0.5) * 0.075 + (stain - 0.5) * 0.1;
    const rim = Math.min(x, y, W - x, H - y);
    const lip = smooth(26, 14, rim) * 0.1 - smooth(30, 26, rim) * smooth(22, 26, rim) * 0.12;
    return [tone + lip, tone * 1.01 + lip, tone * 1.04 + lip];
  }
  if (ground === "rack") return rackColour(x, y);
  const left = 34 + 5 * noise(3, y / 50, 5);
  const right = W - 36 - 6 * noise(9, y / 60, 6);
  const top = 28 + 4 * noise(x / 70, 4, 7);
  const bottom = H - 30 - 5 * noise(x / 80, 8, 8);
  const inside = Math.min(x - left, right - x, y - top, bottom - y);
  if (inside < 0) return mix(rackColour(x, y), [0, 0, 0], 0.45 * smooth(-16, 0, inside));
  const fibre = fractal(x / 3, y / 2.4, 41, 2);
  const crease = Math.abs(fractal(x / 190 + 2, y / 160, 43, 3) - 0.5);
  const grease = smooth(0.56, 0.75, fractal(x / 75, y / 75, 44, 3));
  const tone = 0.5 + (fibre - 0.5) * 0.075 - 0.016 * smooth(0.035, 0, crease) - grease * 0.05;
  const wires = 0.028 * smooth(9, 3, Math.abs(((x + 19) % 38) - 19));
  const curl = 0.06 * smooth(14, 3, inside);
  const t = tone - wires + curl;
  return [t, t * (0.865 - grease * 0.04), t * (0.66 - grease * 0.08)];
}

function groundLayer(ground: Scene["ground"]): Float32Array {
  const known = grounds.get(ground);
  if (known) return known;
  const layer = new Float32Array(W * H * 3);
  for (let y = 0, at = 0; y < H; y++) {
    for (let x = 0; x < W; x++, at += 3) {
      const colour = groundColour(ground, x, y);
      layer[at] = colour[0];
      layer[at + 1] = colour[1];
      layer[at + 2] = colour[2];
    }
  }
  grounds.set(ground, layer);
  return layer;
}

type Placement = {
  bread: PlacedBread;
  cos: number;
  sin: number;
  x: number;
  y: number;
  left: number;
  top: number;
  columns: number;
  rows: number;
};

function place(bread: PlacedBread, scene: Scene): Placement {
  const { reach } = breadForm(bread.kind, bread.bake, bread.seed);
  const cos = Math.cos(bread.angle);
  const sin = Math.sin(bread.angle);
  const halfX = (Math.abs(cos) * reach.x + Math.abs(sin) * reach.y) * bread.scale + 2;
  const halfY = (Math.abs(sin) * reach.x + Math.abs(cos) * reach.y) * bread.scale + 2;
  const x = bread.x + scene.shift.x;
  const y = bread.y + scene.shift.y;
  const left = Math.max(0, Math.floor(x - halfX));
  const top = Math.max(0, Math.floor(y - halfY));
  return {
    bread,
    cos,
    sin,
    x,
    y,
    left,
    top,
    columns: Math.min(W, Math.ceil(x + halfX)) - left,
    rows: Math.min(H, Math.ceil(y + halfY)) - top,
  };
}

function boxBlur(field: Float32Array, width: number, height: number, radius: number, passes: number): Float32Array {
  let from = field;
  for (let pass = 0; pass < passes * 2; pass++) {
    const sideways = pass % 2 === 0;
    const to = new Float32Array(from.length);
    const lines = sideways ? height : width;
    const length = sideways ? width : height;
    const step = sideways ? 1 : width;
    for (let line = 0; line < lines; line++) {
      const start = sideways ? line * width : line;
      const last = length - 1;
      let sum = 0;
      for (let i = -radius; i <= radius; i++) sum += from[start + Math.min(last, Math.max(0, i)) * step] as number;
      for (let i = 0; i < length; i++) {
        to[start + i * step] = sum / (2 * radius + 1);
        sum +=
          (from[start + Math.min(last, i + radius + 1) * step] as number) -
          (from[start + Math.max(0, i - radius) * step] as number);
      }
    }
    from = to;
  }
  return from;
}

function markCell(layer: Float32Array, x: number, y: number): void {
  if (x >= 0 && y >= 0 && x < W / coarse && y < H / coarse) layer[y * (W / coarse) + x] = 1;
}

/** How much light each coarse cell loses: a cast shadow away from the lamp, and the dark line where a bread rests. */
function shadows(placements: readonly Placement[], scene: Scene): Float32Array {
  const width = W / coarse;
  const height = H / coarse;
  const cast = new Float32Array(width * height);
  const contact = new Float32Array(width * height);
  for (const { bread, cos, sin, x, y, left, top, columns, rows } of placements) {
    const form = breadForm(bread.kind, bread.bake, bread.seed);
    for (let cy = Math.floor(top / coarse); cy <= (top + rows) / coarse; cy++) {
      for (let cx = Math.floor(left / coarse); cx <= (left + columns) / coarse; cx++) {
        const dx = (cx + 0.5) * coarse - x;
        const dy = (cy + 0.5) * coarse - y;
        const at = form.surface((dx * cos + dy * sin) / bread.scale, (-dx * sin + dy * cos) / bread.scale);
        if (at.edge <= 0) continue;
        markCell(contact, cx, cy);
        for (const share of [0.35, 0.8, 1.25]) {
          const reach = (at.height * bread.scale * share) / coarse;
          markCell(cast, Math.round(cx - scene.light.x * reach), Math.round(cy - scene.light.y * reach));
        }
      }
    }
  }
  const soft = boxBlur(cast, width, height, 2, 2);
  const tight = boxBlur(contact, width, height, 1, 2);
  return soft.map((value, index) => Math.min(0.86, value * 0.74 + (tight[index] as number) * 0.4));
}

function sampled(field: Float32Array, x: number, y: number): number {
  const width = W / coarse;
  const height = H / coarse;
  const fx = Math.min(width - 1.001, Math.max(0, x / coarse - 0.5));
  const fy = Math.min(height - 1.001, Math.max(0, y / coarse - 0.5));
  const x0 = Math.floor(fx);
  const y0 = Math.floor(fy);
  const tx = fx - x0;
  const ty = fy - y0;
  const at = y0 * width + x0;
  const top = (field[at] as number) * (1 - tx) + (field[at + 1] as number) * tx;
  const bottom = (field[at + width] as number) * (1 - tx) + (field[at + width + 1] as number) * tx;
  return top * (1 - ty) + bottom * ty;
}

function drawBread(canvas: Float32Array, placement: Placement, scene: Scene): void {
  const { bread, cos, sin, x, y, left, top, columns, rows } = placement;
  const form = breadForm(bread.kind, bread.bake, bread.seed);
  const grid = columns + 2;
  const heights = new Float32Array(grid * (rows + 2));
  const edges = new Float32Array(grid * (rows + 2));
  for (let j = 0; j < rows + 2; j++) {
    for (let i = 0; i < grid; i++) {
      const dx = left + i - 0.5 - x;
      const dy = top + j - 0.5 - y;
      const at = form.surface((dx * cos + dy * sin) / bread.scale, (-dx * sin + dy * cos) / bread.scale);
      heights[j * grid + i] = at.height * bread.scale;
      edges[j * grid + i] = at.edge * bread.scale;
    }
  }
  const lamp = { x: scene.light.x, y: scene.light.y, z: 0.85 };
  const length = Math.hypot(lamp.x, lamp.y, lamp.z);
  for (let j = 1; j <= rows; j++) {
    for (let i = 1; i <= columns; i++) {
      const cell = j * grid + i;
      const edge = edges[cell] as number;
      const cover = Math.min(1, Math.max(0, edge + 0.5));
      if (cover <= 0) continue;
      const slopeX = Math.max(-2.2, Math.min(2.2, ((heights[cell + 1] as number) - (heights[cell - 1] as number)) / 2));
      const slopeY = Math.max(
        -2.2,
        Math.min(2.2, ((heights[cell + grid] as number) - (heights[cell - grid] as number)) / 2),
      );
      const norm = Math.hypot(slopeX, slopeY, 1);
      const facing = (-slopeX * lamp.x - slopeY * lamp.y + lamp.z) / (norm * length);
      const dx = left + i - 0.5 - x;
      const dy = top + j - 0.5 - y;
      const u = (dx * cos + dy * sin) / bread.scale;
      const v = (-dx * sin + dy * cos) / bread.scale;
      const { colour, gloss } = form.skin(u, v, {
        edge: edge / bread.scale,
        height: (heights[cell] as number) / bread.scale,
      });
      const halfX = lamp.x / length;
      const halfY = lamp.y / length;
      const halfZ = lamp.z / length + 1;
      const half = (-slopeX * halfX - slopeY * halfY + halfZ) / (norm * Math.hypot(halfX, halfY, halfZ));
      const shine = gloss * 0.55 * Math.max(0, half) ** 26;
      const rest = 0.55 + 0.45 * smooth(0, 9, edge);
      const light = (0.3 + 0.86 * Math.max(0, facing)) * rest;
      const px = (left + i - 1 + (top + j - 1) * W) * 3;
      for (let channel = 0; channel < 3; channel++) {
        // Painted colours are as seen; light adds up in linear values.
        const linear = (colour[channel] as number) ** 2.2 * light + shine;
        canvas[px + channel] = (canvas[px + channel] as number) * (1 - cover) + linear * cover;
      }
    }
  }
}

/** The picture's pixels, RGB, 8 bits. */
export function drawScene(scene: Scene): Uint8Array {
  const base = groundLayer(scene.ground);
  const canvas = new Float32Array(base.length);
  const placements = scene.breads
    .map((bread) => place(bread, scene))
    .filter(({ columns, rows }) => columns > 0 && rows > 0);
  const shade = shadows(placements, scene);
  const shiftX = Math.round(scene.shift.x);
  const shiftY = Math.round(scene.shift.y);
  for (let y = 0, at = 0; y < H; y++) {
    const row = Math.min(H - 1, Math.max(0, y - shiftY)) * W;
    for (let x = 0; x < W; x++, at += 3) {
      const from = (row + Math.min(W - 1, Math.max(0, x - shiftX))) * 3;
      const light = 1 - sampled(shade, x, y);
      canvas[at] = (base[from] as number) * light;
      canvas[at + 1] = (base[from + 1] as number) * light;
      canvas[at + 2] = (base[from + 2] as number) * light;
    }
  }
  for (const placement of placements) drawBread(canvas, placement, scene);
  return develop(canvas, W, H, scene.seed, scene.light);
}

const speckTile = 512;
let speckLayer: Float32Array | null = null;

/** The sensor's noise on a tile that every picture starts at another place of. */
function sensorSpecks(): Float32Array {
  if (speckLayer) return speckLayer;
  speckLayer = new Float32Array(speckTile * speckTile);
  for (let y = 0; y < speckTile; y++) {
    for (let x = 0; x < speckTile; x++)
      speckLayer[y * speckTile + x] = grain(x, y, 3) * 0.022 + (noise(x / 2.2, y / 2.2, 4) - 0.5) * 0.016;
  }
  return speckLayer;
}

/** 8-bit values of seen brightness for linear light in 0…4, a shoulder for highlights included. */
const toneSteps = 8192;
const toneCurve = Float32Array.from({ length: toneSteps + 1 }, (_, step) => {
  const linear = (step / toneSteps) * 4;
  return ((linear * (1 + linear * 0.12)) / (1 + linear * 0.32)) ** (1 / 2.2);
});

/** Lens falloff, exposure, warmth, a soft shoulder for highlights, grain. */
export function develop(
  canvas: Float32Array,
  width: number,
  height: number,
  seed: number,
  light: Scene["light"],
): Uint8Array {
  const pixels = new Uint8Array(canvas.length);
  const specks = sensorSpecks();
  const offsetX = Math.imul(seed, 7919) & (speckTile - 1);
  const offsetY = Math.imul(seed, 104_729) & (speckTile - 1);
  for (let y = 0, at = 0; y < height; y++) {
    for (let x = 0; x < width; x++, at += 3) {
      const dx = x / width - light.falloffX;
      const dy = y / height - light.falloffY;
      const falloff = light.exposure * (1.26 - 1.25 * (dx * dx + dy * dy * 0.8));
      const speck = specks[((y + offsetY) % speckTile) * speckTile + ((x + offsetX) % speckTile)] as number;
      for (let channel = 0; channel < 3; channel++) {
        const warmth = channel === 0 ? 1 + light.warmth : channel === 2 ? 1 - light.warmth : 1;
        const linear = Math.max(0, (canvas[at + channel] as number) * falloff * warmth);
        const position = Math.min(toneSteps - 1, linear * (toneSteps / 4));
        const step = Math.floor(position);
        const low = toneCurve[step] as number;
        const seen = low + ((toneCurve[step + 1] as number) - low) * (position - step);
        pixels[at + channel] = Math.min(255, Math.max(0, Math.round((seen + speck) * 255)));
      }
    }
  }
  return pixels;
}

/**
 * The picture as JPEG. `turned` stores it on its side with the camera's flag that sets it upright (EXIF orientation
 * 6).
 */
export async function renderScene(scene: Scene, { turned = false }: { turned?: boolean } = {}): Promise<Uint8Array> {
  let image = sharp(drawScene(scene), { raw: { width: W, height: H, channels: 3 } });
  if (turned)
    image = sharp(await image.rotate(270).raw().toBuffer(), { raw: { width: H, height: W, channels: 3 } }).withMetadata(
      { orientation: 6 },
    );
  return image.jpeg({ quality: 88, chromaSubsampling: "4:4:4" }).toBuffer();
}
