import sharp from 'sharp';
import { between, chance, type Chance } from '../chance.js';
import { lightAt, type Light } from './light.js';
import { drawSubject, type Subject } from './subjects.js';

export interface Scene {
  readonly seed: number;
  /** Hour of the day, 0 to 24: gives the light. */
  readonly hour: number;
  readonly subject: Subject;
  /** How far a burst has gone on, 0 to 1. */
  readonly moment?: number;
  /** Out of focus, in pixels of the full picture. */
  readonly blur?: number;
  readonly upright?: boolean;
}

const n = (value: number) => value.toFixed(1);

/** Long side at which a scene is drawn; larger pictures are enlarged from it, which is quicker and as good for flat shapes. */
const DRAWN = 1080;

/** Draws a scene of the tidelands as a JPEG of this long side. */
export async function drawScene(scene: Scene, width: number, quality = 84): Promise<Buffer> {
  const drawn = Math.min(width, DRAWN);
  const size = (long: number): [number, number] =>
    scene.upright ? [Math.round((long * 2) / 3), long] : [long, Math.round((long * 2) / 3)];
  const [w, h] = size(width);
  let image = sharp(Buffer.from(svgOf(scene, ...size(drawn)))).flatten();
  if (scene.blur) image = image.blur((scene.blur * drawn) / 1500);
  if (width > drawn) image = image.resize(w, h, { kernel: 'cubic' });
  return image.jpeg({ quality, chromaSubsampling: '4:2:0' }).toBuffer();
}

function svgOf(scene: Scene, w: number, h: number): string {
  const roll = chance(scene.seed);
  const light = lightAt(scene.hour);
  const horizon = between(roll, 330, 560);
  const stage = { roll, light, horizon, moment: scene.moment ?? 0 };
  // Upright pictures show the middle of the same land.
  const box = scene.upright ? '375 -62 750 1125' : '0 0 1500 1000';
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${w}" height="${h}" viewBox="${box}" preserveAspectRatio="xMidYMid slice">
<defs>
<linearGradient id="sky" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${light.sky[0]}"/><stop offset=".62" stop-color="${light.sky[1]}"/><stop offset="1" stop-color="${light.sky[2]}"/></linearGradient>
<linearGradient id="ground" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${light.water[0]}"/><stop offset=".22" stop-color="${light.water[1]}"/><stop offset=".6" stop-color="${light.land[2]}"/><stop offset="1" stop-color="${light.near}"/></linearGradient>
<radialGradient id="glow"><stop offset="0" stop-color="${light.glow}" stop-opacity=".95"/><stop offset=".25" stop-color="${light.glow}" stop-opacity=".4"/><stop offset="1" stop-color="${light.glow}" stop-opacity="0"/></radialGradient>
<radialGradient id="dim" cx=".5" cy=".46" r=".78"><stop offset=".62" stop-color="#000" stop-opacity="0"/><stop offset="1" stop-color="#000" stop-opacity=".38"/></radialGradient>
</defs>
<rect x="-10" y="-100" width="1520" height="${n(horizon + 112)}" fill="url(#sky)"/>
${sun(roll, light, horizon)}${light.night ? stars(roll, horizon) : clouds(roll, light, horizon)}
${hills(roll, light, horizon)}
<rect x="-10" y="${n(horizon)}" width="1520" height="${n(1100 - horizon)}" fill="url(#ground)"/>
${shimmer(roll, light, horizon)}${banks(roll, light, horizon)}
${drawSubject(scene.subject, stage)}
<rect x="-10" y="-100" width="1520" height="1200" fill="url(#dim)"/></svg>`;
}

function sun(roll: Chance, light: Light, horizon: number): string {
  const x = between(roll, 200, 1300);
  const y = horizon - light.height * (horizon - 90) - 10;
  return `<circle cx="${n(x)}" cy="${n(y)}" r="${light.height < 0.4 ? 520 : 300}" fill="url(#glow)"/><circle cx="${n(x)}" cy="${n(y)}" r="${light.night ? 34 : 44}" fill="${light.sun}"/>`;
}

function stars(roll: Chance, horizon: number): string {
  let out = '';
  for (let i = 0; i < 90; i++)
    out += `<circle cx="${n(roll() * 1500)}" cy="${n(roll() * horizon * 0.9)}" r="${n(between(roll, 0.6, 2.2))}" fill="#fff" opacity="${n(between(roll, 0.3, 0.9))}"/>`;
  return out;
}

function clouds(roll: Chance, light: Light, horizon: number): string {
  let out = '';
  for (let i = 0; i < 7; i++) {
    const y = between(roll, 30, horizon * 0.85);
    const x = between(roll, -200, 1400);
    const w = between(roll, 200, 620);
    for (let puff = 0; puff < 5; puff++) {
      out += `<ellipse cx="${n(x + (puff - 2) * w * 0.2)}" cy="${n(y + between(roll, -12, 12))}" rx="${n(w * between(roll, 0.14, 0.3))}" ry="${n(between(roll, 8, 26))}" fill="${light.glow}" opacity="${n(between(roll, 0.12, 0.34))}"/>`;
    }
  }
  return out;
}

function hills(roll: Chance, light: Light, horizon: number): string {
  return light.land
    .slice(0, 2)
    .map((colour, layer) => {
      const base = horizon + 4;
      const height = [110, 56][layer]!;
      let path = `M-20 ${n(base)}`;
      let y = between(roll, 0.3, 0.9);
      for (let x = -20; x <= 1540; x += 60) {
        y = Math.min(1, Math.max(0.12, y + between(roll, -0.22, 0.22)));
        path += ` S${n(x + 20)} ${n(base - y * height)} ${n(x + 60)} ${n(base - y * height)}`;
      }
      return `<path d="${path} L1540 ${n(base)} Z" fill="${colour}" opacity="${layer ? 1 : 0.75}"/>`;
    })
    .join('');
}

function shimmer(roll: Chance, light: Light, horizon: number): string {
  let out = '';
  for (let i = 0; i < 44; i++) {
    const depth = roll() * roll();
    out += `<rect x="${n(between(roll, -80, 1480))}" y="${n(horizon + 6 + depth * 420)}" width="${n(between(roll, 40, 300))}" height="${n(1.5 + depth * 5)}" rx="2" fill="${light.glow}" opacity="${n(between(roll, 0.08, 0.32))}"/>`;
  }
  return out;
}

function banks(roll: Chance, light: Light, horizon: number): string {
  let out = '';
  for (let layer = 0; layer < 3; layer++) {
    const y = horizon + 110 + layer * between(roll, 110, 190);
    const left = roll() < 0.5;
    const reach = between(roll, 500, 1200);
    const colour = [light.land[1], light.land[2], light.near][layer]!;
    const edge = left
      ? `M-20 ${n(y)} Q${n(reach * 0.6)} ${n(y - 30)} ${n(reach)} ${n(y + 40)} T-20 ${n(y + 170)} Z`
      : `M1520 ${n(y)} Q${n(1500 - reach * 0.6)} ${n(y - 30)} ${n(1500 - reach)} ${n(y + 40)} T1520 ${n(y + 170)} Z`;
    out += `<path d="${edge}" fill="${colour}" opacity=".85"/>`;
  }
  return out;
}
