/** Light of a scene by hour of day: sky from top to horizon, land from far to near, water, glow. */
export interface Light {
  readonly sky: readonly [string, string, string];
  readonly land: readonly [string, string, string];
  readonly near: string;
  readonly water: readonly [string, string];
  readonly glow: string;
  readonly sun: string;
  /** Height of the sun, 0 at the horizon, 1 at the top of the picture. */
  readonly height: number;
  readonly figure: string;
  readonly night: boolean;
}

const LIGHTS: readonly (Light & { readonly until: number })[] = [
  {
    until: 5.5,
    sky: ['#0b1530', '#1c2c52', '#4b4a6c'],
    land: ['#232b47', '#1a2138', '#12182b'],
    near: '#0b101e',
    water: ['#39426a', '#131c36'],
    glow: '#8d93c4',
    sun: '#f2efdc',
    height: 0.72,
    figure: '#070b15',
    night: true,
  },
  {
    until: 7.5,
    sky: ['#5d6f9e', '#d79a8c', '#ffd9a3'],
    land: ['#7f7a93', '#5c6078', '#3f4a58'],
    near: '#2a332f',
    water: ['#f3c39a', '#63708f'],
    glow: '#ffdca0',
    sun: '#fff4d2',
    height: 0.1,
    figure: '#1e2427',
    night: false,
  },
  {
    until: 11,
    sky: ['#5f9fce', '#a9cfe2', '#e9f1e4'],
    land: ['#8fb0ad', '#6e967f', '#557a55'],
    near: '#3f5a34',
    water: ['#bfe0e6', '#4f8ca8'],
    glow: '#ffffff',
    sun: '#fffbe8',
    height: 0.66,
    figure: '#22312c',
    night: false,
  },
  {
    until: 15.5,
    sky: ['#3f86c2', '#8fc0df', '#dcebea'],
    land: ['#93b3a5', '#7b9c66', '#64853f'],
    near: '#4c6a2c',
    water: ['#a9d3df', '#3a7f9f'],
    glow: '#ffffff',
    sun: '#ffffff',
    height: 0.9,
    figure: '#26332a',
    night: false,
  },
  {
    until: 18.3,
    sky: ['#6d9ec0', '#d9d2b4', '#fbe3ae'],
    land: ['#a5a183', '#8a8a52', '#6f7338'],
    near: '#575a26',
    water: ['#f0dcae', '#6d8f96'],
    glow: '#ffe9b5',
    sun: '#fff6d6',
    height: 0.34,
    figure: '#2b2a1d',
    night: false,
  },
  {
    until: 20.6,
    sky: ['#3a3f6e', '#c2605c', '#ffb26b'],
    land: ['#6b4c63', '#4b3a52', '#33303f'],
    near: '#221f29',
    water: ['#f39a68', '#473c60'],
    glow: '#ffc37d',
    sun: '#ffe7b0',
    height: 0.06,
    figure: '#17141c',
    night: false,
  },
  {
    until: 24,
    sky: ['#0a1128', '#172648', '#33405f'],
    land: ['#1d2740', '#161d31', '#0f1524'],
    near: '#090d18',
    water: ['#2e3c61', '#101830'],
    glow: '#7f8bbd',
    sun: '#f4f0db',
    height: 0.78,
    figure: '#05080f',
    night: true,
  },
];

/** @param hour of the day, 0 to 24. */
export function lightAt(hour: number): Light {
  return LIGHTS.find((light) => hour < light.until) ?? LIGHTS.at(-1)!;
}
