import { setupZonelessTestEnv } from 'jest-preset-angular/setup-env/zoneless/index.mjs';

setupZonelessTestEnv();

// What jsdom has not: components only observe with these, so that doing nothing is enough.
class Quiet {
  observe(): void {
    return;
  }
  unobserve(): void {
    return;
  }
  disconnect(): void {
    return;
  }
}
Object.assign(globalThis, { ResizeObserver: Quiet, IntersectionObserver: Quiet });
window.matchMedia = (query: string) =>
  ({
    matches: false,
    media: query,
    addEventListener: () => undefined,
    removeEventListener: () => undefined,
  }) as unknown as MediaQueryList;
HTMLCanvasElement.prototype.getContext = () => null;
