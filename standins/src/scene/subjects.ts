import { between, pick, whole, type Chance } from '../chance.js';
import type { Light } from './light.js';

/** What is in a picture besides the land. Coordinates: 0–1500 across, 0–1000 down; the horizon lies at `horizon`. */
export interface Stage {
  readonly roll: Chance;
  readonly light: Light;
  readonly horizon: number;
  /** How far a burst has gone on, 0 to 1: figures move a little from frame to frame. */
  readonly moment: number;
}

export type Subject = 'flats' | 'reeds' | 'boat' | 'birds' | 'planting' | 'gate' | 'moth' | 'cleanup' | 'heron';

const n = (value: number) => value.toFixed(1);

export function drawSubject(subject: Subject, stage: Stage): string {
  return DRAW[subject](stage);
}

const DRAW: Readonly<Record<Subject, (stage: Stage) => string>> = {
  flats: (s) => pools(s) + birds(s, whole(s.roll, 0, 4), 0.5),
  reeds: (s) => pools(s) + reeds(s, 90, 1),
  boat: (s) => boat(s) + reeds(s, 26, 0.7),
  birds: (s) => pools(s) + birds(s, whole(s.roll, 9, 24), 1) + reeds(s, 14, 0.5),
  planting: (s) => pools(s) + seedlings(s) + people(s, whole(s.roll, 2, 5), true),
  gate: (s) => gate(s) + people(s, whole(s.roll, 0, 2), false),
  moth: (s) => moth(s),
  cleanup: (s) => pools(s) + people(s, whole(s.roll, 2, 4), true) + sacks(s),
  heron: (s) => pools(s) + heron(s) + reeds(s, 30, 0.8),
};

function pools({ roll, light, horizon }: Stage): string {
  let out = '';
  for (let i = 0; i < 9; i++) {
    const depth = roll();
    const y = horizon + 60 + depth * (940 - horizon);
    const rx = 60 + depth * between(roll, 120, 330);
    out += `<ellipse cx="${n(between(roll, 0, 1500))}" cy="${n(y)}" rx="${n(rx)}" ry="${n(rx * 0.09)}" fill="${light.water[0]}" opacity="${n(0.25 + depth * 0.4)}"/>`;
  }
  return out;
}

function reeds({ roll, light, moment }: Stage, count: number, size: number): string {
  let out = '';
  const lean = between(roll, -60, 90) + moment * 22;
  for (let i = 0; i < count; i++) {
    const x = between(roll, -40, 1540);
    const h = between(roll, 220, 620) * size;
    const bend = lean + between(roll, -40, 40);
    const width = between(roll, 3, 8) * size;
    const shade = pick(roll, [light.near, light.figure, light.land[2]]);
    out += `<path d="M${n(x)} 1010 Q${n(x + bend * 0.2)} ${n(1010 - h * 0.6)} ${n(x + bend)} ${n(1010 - h)}" fill="none" stroke="${shade}" stroke-width="${n(width)}" stroke-linecap="round"/>`;
    if (roll() < 0.4) {
      const angle = Math.atan2(bend * 0.8, h * 0.4) * (180 / Math.PI);
      out += `<ellipse cx="${n(x + bend)}" cy="${n(1010 - h)}" rx="${n(9 * size)}" ry="${n(36 * size)}" fill="${light.figure}" transform="rotate(${n(angle)} ${n(x + bend)} ${n(1010 - h)})"/>`;
    } else if (roll() < 0.5) {
      out += `<path d="M${n(x + bend * 0.5)} ${n(1010 - h * 0.6)} q${n(bend)} -90 ${n(bend + 70)} -40" fill="none" stroke="${shade}" stroke-width="${n(width * 0.8)}"/>`;
    }
  }
  return out;
}

function birds({ roll, light, horizon, moment }: Stage, count: number, size: number): string {
  let out = '';
  const cx = between(roll, 350, 1150) + moment * 120;
  const cy = between(roll, horizon * 0.25, horizon * 0.7);
  for (let i = 0; i < count; i++) {
    const x = cx + between(roll, -420, 420);
    const y = cy + between(roll, -150, 150);
    const w = between(roll, 16, 40) * size;
    const flap = between(roll, 0.15, 0.7) * (roll() < 0.3 ? -0.4 : 1);
    out += `<path d="M${n(x - w)} ${n(y - w * flap)} Q${n(x - w * 0.4)} ${n(y - w * flap * 1.1)} ${n(x)} ${n(y)} Q${n(x + w * 0.4)} ${n(y - w * flap * 1.1)} ${n(x + w)} ${n(y - w * flap)}" fill="none" stroke="${light.figure}" stroke-width="${n(w * 0.16 + 1)}" stroke-linecap="round"/>`;
  }
  return out;
}

function boat({ roll, light, horizon, moment }: Stage): string {
  const x = between(roll, 380, 1120) + moment * 50;
  const y = horizon + between(roll, 70, 190);
  const s = between(roll, 0.9, 1.6);
  const hull = `<path d="M${n(x - 120 * s)} ${n(y - 26 * s)} L${n(x + 130 * s)} ${n(y - 30 * s)} Q${n(x + 90 * s)} ${n(y + 16 * s)} ${n(x - 80 * s)} ${n(y + 14 * s)} Z" fill="${light.figure}"/>`;
  const mast = `<line x1="${n(x)}" y1="${n(y - 26 * s)}" x2="${n(x + 4)}" y2="${n(y - 300 * s)}" stroke="${light.figure}" stroke-width="${n(6 * s)}"/>`;
  const sail = pick(roll, ['#b4543d', '#d8c9a4', '#8d3b36', '#c98f4a']);
  const sails = `<path d="M${n(x + 10)} ${n(y - 290 * s)} Q${n(x + 150 * s)} ${n(y - 150 * s)} ${n(x + 120 * s)} ${n(y - 50 * s)} L${n(x + 10)} ${n(y - 44 * s)} Z" fill="${sail}" opacity=".93"/><path d="M${n(x - 8)} ${n(y - 270 * s)} L${n(x - 100 * s)} ${n(y - 54 * s)} L${n(x - 8)} ${n(y - 50 * s)} Z" fill="${sail}" opacity=".75"/>`;
  const mirror = `<g transform="translate(0 ${n(2 * y + 14)}) scale(1 -.55) translate(0 ${n(-y * 0.0)})" opacity=".16">${hull}</g>`;
  return mast + sails + hull + mirror + streaks(roll, light, y + 20);
}

function streaks(roll: Chance, light: Light, y: number): string {
  let out = '';
  for (let i = 0; i < 26; i++) {
    const yy = y + i * i * 0.7 + between(roll, 0, 12);
    out += `<rect x="${n(between(roll, -100, 1400))}" y="${n(yy)}" width="${n(between(roll, 80, 420))}" height="${n(1.5 + i * 0.12)}" rx="2" fill="${light.glow}" opacity="${n(between(roll, 0.08, 0.3))}"/>`;
  }
  return out;
}

const COATS = ['#c9512f', '#2f6d8e', '#d9a02b', '#4c7d52', '#7a4a7d', '#3e4f63', '#b8b09a'];

function person(roll: Chance, light: Light, x: number, ground: number, h: number, stoop: boolean): string {
  const coat = light.night ? light.figure : pick(roll, COATS);
  const skin = light.night ? '#20243a' : pick(roll, ['#8a5a3c', '#c99871', '#e2b894', '#6b4430']);
  const lean = stoop ? between(roll, 0.25, 0.6) * (roll() < 0.5 ? -1 : 1) : between(roll, -0.06, 0.06);
  const hip = ground - h * 0.46;
  const sx = x + lean * h * 0.36;
  const sy = hip - h * (0.34 - Math.abs(lean) * 0.12);
  const legs = `<path d="M${n(x)} ${n(hip)} L${n(x - h * 0.08)} ${n(ground)} M${n(x)} ${n(hip)} L${n(x + h * 0.09)} ${n(ground)}" stroke="${light.figure}" stroke-width="${n(h * 0.1)}" stroke-linecap="round"/>`;
  const body = `<path d="M${n(x)} ${n(hip)} L${n(sx)} ${n(sy)}" stroke="${coat}" stroke-width="${n(h * 0.2)}" stroke-linecap="round"/>`;
  const reach = stoop ? ground - h * 0.08 : hip + h * 0.02;
  const arm = `<path d="M${n(sx)} ${n(sy + h * 0.03)} Q${n(sx + lean * h * 0.3 + h * 0.08)} ${n((sy + reach) / 2)} ${n(sx + lean * h * 0.35)} ${n(reach)}" stroke="${coat}" stroke-width="${n(h * 0.07)}" fill="none" stroke-linecap="round"/>`;
  const head = `<circle cx="${n(sx + lean * h * 0.16)}" cy="${n(sy - h * 0.15)}" r="${n(h * 0.085)}" fill="${skin}"/>`;
  const hat =
    roll() < 0.6
      ? `<path d="M${n(sx + lean * h * 0.16 - h * 0.1)} ${n(sy - h * 0.18)} q${n(h * 0.1)} ${n(-h * 0.12)} ${n(h * 0.2)} 0 z" fill="${pick(roll, COATS)}"/>`
      : '';
  const shadow = `<ellipse cx="${n(x)}" cy="${n(ground + 4)}" rx="${n(h * 0.24)}" ry="${n(h * 0.035)}" fill="${light.figure}" opacity=".35"/>`;
  return shadow + legs + body + arm + head + hat;
}

function people({ roll, light, horizon, moment }: Stage, count: number, stoop: boolean): string {
  const places = Array.from({ length: count }, () => ({
    x: between(roll, 180, 1320),
    depth: roll(),
    stoop: stoop && roll() < 0.7,
  }));
  places.sort((a, b) => a.depth - b.depth);
  return places
    .map((p) => person(roll, light, p.x + moment * 26, horizon + 120 + p.depth * (760 - horizon), 150 + p.depth * 270, p.stoop))
    .join('');
}

function seedlings({ roll, light, horizon }: Stage): string {
  let out = '';
  for (let row = 0; row < 7; row++) {
    const depth = (row + 0.6) / 7;
    const y = horizon + 80 + depth * depth * (880 - horizon);
    for (let x = -20 + roll() * 40; x < 1520; x += 60 + depth * 70) {
      const h = 14 + depth * 52;
      out += `<path d="M${n(x)} ${n(y)} q${n(-h * 0.2)} ${n(-h * 0.6)} ${n(-h * 0.35)} ${n(-h)} M${n(x)} ${n(y)} q${n(h * 0.1)} ${n(-h * 0.7)} ${n(h * 0.3)} ${n(-h * 0.95)} M${n(x)} ${n(y)} v${n(-h * 1.1)}" stroke="${light.night ? light.figure : '#5f8d3e'}" stroke-width="${n(1.5 + depth * 3)}" fill="none"/>`;
    }
  }
  return out;
}

function gate({ roll, light, horizon }: Stage): string {
  const x = between(roll, 420, 760);
  const y = horizon + 10;
  const w = between(roll, 300, 420);
  const wall = `<path d="M-10 ${n(y + 20)} H${n(x)} V${n(y - 120)} H${n(x + w)} V${n(y + 20)} H1510 V${n(y + 110)} H-10 Z" fill="${light.land[1]}"/><path d="M-10 ${n(y + 20)} H${n(x)} M${n(x + w)} ${n(y + 20)} H1510" stroke="${light.glow}" stroke-width="5" opacity=".4"/>`;
  const open = between(roll, 0.1, 0.7);
  let bars = '';
  for (let i = 0; i < 7; i++)
    bars += `<rect x="${n(x + 34 + (i * (w - 80)) / 6)}" y="${n(y - 96 - open * 70)}" width="16" height="230" fill="${light.figure}"/>`;
  const frame = `<rect x="${n(x + 16)}" y="${n(y - 150)}" width="${n(w - 32)}" height="26" fill="${light.figure}"/><circle cx="${n(x + w / 2)}" cy="${n(y - 178)}" r="38" fill="none" stroke="#a8382a" stroke-width="12"/><path d="M${n(x + w / 2 - 38)} ${n(y - 178)} h76 M${n(x + w / 2)} ${n(y - 216)} v76" stroke="#a8382a" stroke-width="8"/>`;
  const flow = `<path d="M${n(x + 20)} ${n(y + 110)} Q${n(x + w / 2)} ${n(y + 240)} ${n(x - 260)} 1010 H${n(x + w + 320)} Q${n(x + w / 2 + 120)} ${n(y + 260)} ${n(x + w - 20)} ${n(y + 110)} Z" fill="${light.water[0]}" opacity=".75"/>`;
  return wall + flow + bars + frame + streaks(roll, light, y + 150);
}

function sacks({ roll, light }: Stage): string {
  let out = '';
  for (let i = 0; i < 4; i++) {
    const x = between(roll, 150, 1350);
    const y = between(roll, 850, 960);
    out += `<path d="M${n(x - 60)} ${n(y)} q-16 -96 44 -110 q10 -20 24 0 q62 16 50 110 z" fill="${light.night ? '#2b3047' : pick(roll, ['#d9d3c0', '#8f9b8c', '#3c4650'])}"/>`;
  }
  return out;
}

function heron({ roll, light, horizon, moment }: Stage): string {
  const x = between(roll, 500, 1000);
  const y = horizon + between(roll, 230, 330);
  const body = light.night ? '#4a5170' : '#8c99a6';
  const dip = moment * 60;
  return `<g stroke-linecap="round" fill="none"><path d="M${n(x)} ${n(y)} v190 M${n(x + 34)} ${n(y)} v190" stroke="#b8923f" stroke-width="7"/><path d="M${n(x - 70)} ${n(y + 16)} Q${n(x)} ${n(y - 70)} ${n(x + 110)} ${n(y + 26)} Q${n(x + 10)} ${n(y + 50)} ${n(x - 70)} ${n(y + 16)} Z" fill="${body}"/><path d="M${n(x - 50)} ${n(y)} Q${n(x - 150)} ${n(y - 70 + dip)} ${n(x - 80)} ${n(y - 150 + dip)} Q${n(x - 50)} ${n(y - 200 + dip)} ${n(x - 96)} ${n(y - 224 + dip)}" stroke="${body}" stroke-width="20"/><path d="M${n(x - 96)} ${n(y - 224 + dip)} l-92 ${n(24 + dip * 0.6)}" stroke="#c79a3a" stroke-width="11"/><path d="M${n(x - 84)} ${n(y - 234 + dip)} l52 26" stroke="${light.figure}" stroke-width="6"/></g><ellipse cx="${n(x + 16)}" cy="${n(y + 192)}" rx="120" ry="10" fill="${light.figure}" opacity=".3"/>`;
}

function moth({ roll, moment }: Stage): string {
  const x = between(roll, 560, 940);
  const y = between(roll, 420, 600);
  const s = between(roll, 1.1, 1.9);
  const wing = pick(roll, ['#b79b6c', '#8f8a5d', '#c7b7a0', '#7d5a48', '#a8b08e']);
  const dark = pick(roll, ['#5b4630', '#3d4030', '#6e3f2c']);
  const turn = between(roll, -40, 40) + moment * 14;
  const half = (side: number) =>
    `<g transform="scale(${side} 1)"><path d="M6 -30 Q120 -150 236 -96 Q210 10 90 44 Q30 40 6 10 Z" fill="${wing}"/><path d="M6 14 Q80 40 150 60 Q150 150 70 150 Q20 110 6 60 Z" fill="${wing}" opacity=".82"/><circle cx="130" cy="-54" r="22" fill="${dark}"/><circle cx="130" cy="-54" r="10" fill="#f4e7c5"/><path d="M40 -60 Q120 -90 222 -80 M30 -10 Q110 -30 190 -10" stroke="${dark}" stroke-width="7" fill="none" opacity=".75"/></g>`;
  const sheet = `<rect x="-10" y="-10" width="1520" height="1020" fill="#e9e6da"/><g opacity=".35">${Array.from({ length: 46 }, (_, i) => `<path d="M0 ${i * 22} H1500" stroke="#cfcab8" stroke-width="2"/><path d="M${i * 33} 0 V1000" stroke="#d6d1c0" stroke-width="2"/>`).join('')}</g><radialGradient id="lamp"><stop offset="0" stop-color="#fffbe4" stop-opacity=".95"/><stop offset="1" stop-color="#3a3b55" stop-opacity=".88"/></radialGradient><circle cx="${n(x + 120)}" cy="${n(y - 160)}" r="1300" fill="url(#lamp)"/>`;
  return `${sheet}<ellipse cx="${n(x + 14)}" cy="${n(y + 40)}" rx="${n(210 * s)}" ry="${n(90 * s)}" fill="#2b2735" opacity=".22"/><g transform="translate(${n(x)} ${n(y)}) rotate(${n(turn)}) scale(${n(s)})">${half(1)}${half(-1)}<ellipse rx="15" ry="66" cy="16" fill="${dark}"/><circle cy="-58" r="15" fill="${dark}"/><path d="M-6 -70 Q-50 -130 -84 -126 M6 -70 Q50 -130 84 -126" stroke="${dark}" stroke-width="5" fill="none"/></g>`;
}
