import { describe, expect, it } from '@jest/globals';
import { onlyProposal, proposeAssignments } from './index.js';

const assignment = (id: number, from: string, to: string, ...expected: number[]) => ({
  id,
  from,
  to,
  expected: expected.map((contributor) => ({ id: contributor })),
});
const planting = assignment(1, '2026-04-18', '2026-04-18', 7);
const survey = assignment(2, '2026-04-01', '2026-04-30');
const seals = assignment(3, '2026-05-02', '2026-05-03', 7);

describe('assignments propose themselves', () => {
  it('by their days: the one that expects the contributor first, then the shorter one', () => {
    expect(proposeAssignments(['2026-04-18T10:00:00'], [survey, planting, seals], null)).toEqual([planting, survey]);
    expect(proposeAssignments(['2026-04-18T10:00:00'], [assignment(9, '2026-04-18', '2026-04-18'), planting], 7)[0]).toBe(
      planting,
    );
  });

  it('nothing on the calendar is nothing proposed', () => {
    expect(proposeAssignments(['2025-01-01T10:00:00'], [survey, planting, seals], 7)).toEqual([]);
  });

  it('by itself only when there is no doubt', () => {
    expect(onlyProposal(['2026-04-18T10:00:00'], [survey, planting], 7)).toBe(planting);
    expect(onlyProposal(['2026-04-18T10:00:00'], [survey, planting], 8)).toBeNull();
    expect(onlyProposal(['2026-04-20T10:00:00'], [survey, planting], 8)).toBe(survey);
    expect(onlyProposal(['2026-04-18T10:00:00', '2026-05-02T09:00:00'], [planting, seals], 7)).toBeNull();
  });
});
