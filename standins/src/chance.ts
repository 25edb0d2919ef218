/** A small deterministic generator (mulberry32): the same seed draws the same picture on every machine. */
/** 0 ≤ x < 1 */
export type Chance = () => number;

export function chance(seed: number): Chance {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
}

export const between = (roll: Chance, low: number, high: number): number => low + (high - low) * roll();
export const whole = (roll: Chance, low: number, high: number): number => Math.floor(between(roll, low, high + 1));
export const pick = <T>(roll: Chance, from: readonly T[]): T => from[Math.floor(roll() * from.length)]!;
