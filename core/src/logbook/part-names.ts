interface Named {
  readonly contributor: { readonly name: string } | null;
  readonly assignment: { readonly title: string } | null;
}

/** Whose an intake is, or what it was shot for: everybody's names where it was split, the most first; else the slip's. */
export function partNames(intake: Named & { readonly parts: readonly Named[] }, what: 'contributor' | 'assignment'): string[] {
  const all: readonly Named[] = intake.parts.length ? intake.parts : [intake];
  return [...new Set(all.flatMap((part) => (what === 'contributor' ? part.contributor?.name : part.assignment?.title) ?? []))];
}
