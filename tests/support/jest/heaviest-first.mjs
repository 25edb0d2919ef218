// The order in which Jest begins suites: whatever takes longest comes first, so that no worker is left alone with it at the end.
import { readFileSync } from 'node:fs';
import Sequencer from '@jest/test-sequencer';

const weightOf = ({ path }) => Number(/^\/\/ weighs (\d+)/.exec(readFileSync(path, 'utf8'))?.[1] ?? 0);

export default class HeaviestFirst extends Sequencer {
  sort(tests) {
    return [...tests].sort((a, b) => weightOf(b) - weightOf(a));
  }
}
