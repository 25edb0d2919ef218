/** A thing of the house, and the last time it was lent. */
export interface LentThing {
  readonly label: string;
  readonly kind: 'card' | 'reader' | 'cable' | 'camera' | 'recorder' | 'other';
  readonly name: string;
  readonly lent: { readonly at: string; readonly to: string; readonly due: string | null; readonly note: string } | null;
  /** When it came back; a card is then handed in and waits to be read. */
  readonly back: string | null;
}

const lent = (at: string, to: string, due: string | null, note = '') => ({ at: `2026-04-${at}:00Z`, to, due, note });

/** What the trust lends: who has it on the day of the demonstration, two things overdue, a card forgotten in its tray. */
export const LENT: readonly LentThing[] = [
  { label: 'H-01', kind: 'card', name: '', lent: null, back: null },
  {
    ...{ label: 'H-02', kind: 'card', name: '' },
    ...{ lent: lent('16T15:05', 'TRO', '2026-04-20', 'sluice repair'), back: '2026-04-20T08:50:00Z' },
  },
  { label: 'H-03', kind: 'card', name: '', lent: lent('12T08:30', 'OB', '2026-04-19', 'tern colony'), back: null },
  { label: 'H-04', kind: 'card', name: '', lent: null, back: null },
  { label: 'H-05', kind: 'card', name: '', lent: lent('20T12:10', 'PL', '2026-04-21'), back: null },
  { label: 'H-06', kind: 'card', name: '', lent: lent('21T07:45', 'JUA', '2026-04-25', 'spring bird count'), back: null },
  { label: 'K-1', kind: 'camera', name: 'Halden M4, spare body', lent: lent('17T16:20', 'ST', '2026-04-27'), back: null },
  { label: 'K-2', kind: 'recorder', name: 'Two-track field recorder', lent: null, back: null },
  { label: 'R-1', kind: 'reader', name: 'Two-slot reader', lent: null, back: null },
  { label: 'R-2', kind: 'reader', name: 'Pocket reader', lent: lent('14T17:00', 'WC', '2026-04-18', 'outpost'), back: null },
  { label: 'L-1', kind: 'cable', name: 'USB-C, two metres', lent: lent('14T17:00', 'WC', null, 'outpost'), back: null },
];
