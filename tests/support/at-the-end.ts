import { afterAll } from '@jest/globals';
import { endAll } from '../../server/src/testing/at-the-end.js';

afterAll(endAll);
