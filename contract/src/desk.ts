import { z } from 'zod';
import { IntakeSummary } from './intake.js';
import { Assignment } from './people.js';

export const PLACE_KINDS = ['shared drive', 'second copy', 'off-site copy', 'archive'] as const;

export const PlaceView = z.object({
  id: z.string(),
  name: z.string(),
  kind: z.enum(PLACE_KINDS),
  root: z.string(),
  required: z.boolean(),
  online: z.boolean(),
  problem: z.string().nullable(),
  freeBytes: z.number().nullable(),
  totalBytes: z.number().nullable(),
  device: z.string().nullable(),
  copies: z.number().int(),
  bytes: z.number(),
});
export type PlaceView = z.infer<typeof PlaceView>;

export const Desk = z.object({
  in: z.array(IntakeSummary),
  onTheDesk: z.array(IntakeSummary),
  toGiveBack: z.array(IntakeSummary),
  expected: z.array(Assignment),
  places: z.array(PlaceView),
});
export type Desk = z.infer<typeof Desk>;
