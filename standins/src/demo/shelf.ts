/** What the Trust said of what it has, in its first year with the shelf. */
export const SHELF = {
  said: [
    {
      question: 'for wader-survey taken:2026-01',
      first: 3,
      description: 'Curlew at the tide line, first light',
      verdict: 'select',
    },
    { question: 'for wader-survey taken:2026-02', first: 4, description: 'Grey heron by the sluice', verdict: 'select' },
    { question: 'by:JA', first: 6, description: 'Little egret in the creek', verdict: 'select' },
    { question: 'for creek-clean-up', first: 5, description: 'Hauling the old nets out' },
    { question: 'for reed-planting', first: 4, description: 'First reeds go in', verdict: 'select' },
    { question: 'for marsh-diary taken:2025-10', first: 2, verdict: 'reshoot' },
  ],
  bundles: [
    { name: 'Annual report 2026', question: 'is:select', first: 12 },
    { name: 'Cover ideas', in: 'Annual report 2026', question: 'reeds select', first: 3 },
    { name: 'Thank-you cards for volunteers', question: 'for reed-planting', first: 9 },
  ],
  standing: [
    { name: 'Planters at work', question: 'for reed-planting photos', before: 2 },
    { name: 'Waders not described', question: 'for:wader-survey -is:described', before: 0 },
    { name: 'One proven copy only', question: 'not proven twice', before: 0 },
  ],
};
