import type { Answer, Asked } from '../api/answer'

/** An answer in the two pieces in which a server tells it. A test gives only what it looks at; nothing is built in it. */
export function told(whole: Partial<Omit<Answer, 'sections'>> & { sections?: { asked: unknown[]; [more: string]: unknown }[] }, key = 'f') {
  const { sections = [], places = [], figures = [], lines = [], structure, leftOut = 0, priced = false, ...rest } = whole
  const asked = sections.flatMap((s) => s.asked) as Asked[]
  return {
    clashes: [],
    missing: [],
    advice: [],
    faults: [],
    structureFaults: [],
    ...rest,
    formKey: key,
    asked: asked.map(({ choices, several, ...a }) => ({
      ...a,
      cannot: choices.flatMap((c, i) => (c.can ? [] : [i])),
      several: several?.map((m) => ({ ...m, cannotBeIn: !m.canBeIn, cannotBeOut: !m.canBeOut })),
    })),
    places,
    figures: figures.map((f) => ({ ...f, open: !f.final })),
    lines: lines.map((l) => ({ ...l, quantity: [l.quantity, l.suggestedQuantity] })),
    structure: structure && { ...structure, bom: structure.bom.map((l) => ({ ...l, reads: l.because?.map((b) => b.path) })), routing: [] },
    values: [],
    items: {},
    form: {
      key,
      sections,
      places,
      figures: figures.map((f) => ({ ...f, reads: f.because.map((b) => b.path) })),
      lines,
      rows: {},
      labels: {},
      leftOut,
      priced,
    },
  }
}
