import { between, chance, pick, whole } from '../chance.js';
import type { Exposure } from '../camera/camera.js';
import type { Scene } from '../scene/scene.js';
import type { Subject } from '../scene/subjects.js';

/** One press of the button. */
export interface Shot {
  readonly at: string;
  readonly scene: Scene;
}

const pad = (value: number) => String(value).padStart(2, '0');

/** Wall clock some seconds later. */
export function later(at: string, seconds: number): string {
  return new Date(Date.parse(`${at}Z`) + seconds * 1000).toISOString().slice(0, 19);
}

export const hourOf = (at: string): number => Number(at.slice(11, 13)) + Number(at.slice(14, 16)) / 60;

/**
 * A stretch of shooting: single pictures and, now and then, a burst of nearly the same one, some of it out of focus.
 * @param light hour by which to light the pictures when the camera's clock is not to be believed.
 */
export function session(seed: number, from: string, count: number, subjects: readonly Subject[], light?: number): Shot[] {
  const roll = chance(seed);
  const shots: Shot[] = [];
  let at = from;
  while (shots.length < count) {
    const subject = pick(roll, subjects);
    const look = whole(roll, 1, 1_000_000);
    const burst = roll() < 0.22 ? whole(roll, 3, 5) : 1;
    const upright = roll() < 0.16;
    for (let frame = 0; frame < burst && shots.length < count; frame++) {
      const blurred = burst > 1 ? frame === whole(roll, 0, burst) : roll() < 0.05;
      const scene: Scene = {
        seed: look,
        hour: light ?? hourOf(at),
        subject,
        moment: burst > 1 ? frame / burst : 0,
        ...(blurred ? { blur: between(roll, 3, 9) } : {}),
        upright,
      };
      shots.push({ at, scene });
      at = later(at, burst > 1 ? 1 : whole(roll, 12, 130));
    }
    at = later(at, whole(roll, 8, 60));
  }
  return shots;
}

/** Exposure data that fits the light. */
export function exposureOf(at: string, offset: string | null, seed: number): Exposure {
  const roll = chance(seed);
  const hour = hourOf(at);
  const dim = hour < 7 || hour > 19;
  return {
    at,
    offset,
    seconds: dim ? 1 / pick(roll, [15, 30, 60]) : 1 / pick(roll, [250, 500, 800, 1250]),
    fNumber: pick(roll, [2.8, 4, 5.6, 8]),
    iso: dim ? pick(roll, [1600, 3200]) : pick(roll, [100, 200, 400]),
    focalLength: pick(roll, [24, 35, 50, 85, 200]),
  };
}

/** The camera's own number: counts on, wraps after 9999. */
export const cameraNumber = (first: number, index: number): string => String(((first + index - 1) % 9999) + 1).padStart(4, '0');

export const dayOf = (at: Date): string => `${at.getUTCFullYear()}-${pad(at.getUTCMonth() + 1)}-${pad(at.getUTCDate())}`;
