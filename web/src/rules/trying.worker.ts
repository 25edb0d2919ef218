/// <reference lib="webworker" />
import type { RuleMaterial } from '@tally/contract';
import type { TryAnswer, TryAsk } from './trial-runner';
import { tryRule } from './trying';

let material: RuleMaterial | null = null;

addEventListener('message', ({ data }: MessageEvent<TryAsk>) => {
  if (data.kind === 'material') {
    material = data.material;
    return;
  }
  if (!material) return;
  const answer: TryAnswer = { id: data.id, outcome: tryRule(material, data.source, data.other) };
  postMessage(answer);
});
