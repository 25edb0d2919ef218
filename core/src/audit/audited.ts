/** Kinds of events that are for whoever is answerable: who came, who may what, what left the house, what cannot be undone. */
export const AUDITED = [
  ...(['sign-in', 'sign-in refused', 'signed out', 'session', 'password', 'second factor', 'account'] as const),
  ...(['hand-in link', 'handed in', 'export', 'forgotten', 'erased', 'retention', 'chain'] as const),
  ...(['house', 'place', 'backup', 'house rule', 'consent', 'agreement'] as const),
  ...(['clearing', 'clear', 'clearing interrupted', 'let go', 'restored'] as const),
  ...(['mend', 'tray emptied', 'adoption'] as const),
] as const;
export type Audited = (typeof AUDITED)[number];
