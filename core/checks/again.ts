import { differencesBetween, type Difference } from '../text/differences'

/** What decides what a tag’s value is: where it comes from, and what is made of it. */
export interface CheckedTag {
  source: unknown
  type: unknown
  access: unknown
  scaling: unknown
  odd: unknown
  rawUnit: unknown
  unit: unknown
  names: unknown
  /** Of the link of its point: its kind, and what of its settings decides what is read; null: it has none. */
  link: { name: string; kind: string; settings: unknown } | null
}

/** How often and how patiently something is asked changes no value. */
const pacing = new Set(['interval', 'patience', 'writes', 'leaveOut', 'notices', 'session', 'limits'])

interface Parts extends Omit<CheckedTag, 'link'> {
  link: CheckedTag['link']
}

/** Of a tag and its link what a check of it was good for. Secrets are out of the settings already. */
export const checkedOf = ({ source, type, access, scaling, odd, rawUnit, unit, names, link }: Parts): CheckedTag => ({
  ...{ source: withoutPacing(source), type, access, scaling, odd, rawUnit, unit, names },
  link: link && { ...link, settings: withoutPacing(link.settings) },
})

const withoutPacing = (thing: unknown): unknown =>
  typeof thing === 'object' && thing !== null && !Array.isArray(thing)
    ? Object.fromEntries(Object.entries(thing).filter(([name]) => !pacing.has(name)))
    : thing

/** What is another thing since a tag was checked: it has to be checked again. The name of a link decides nothing. */
export const changedSince = (checked: CheckedTag, now: CheckedTag): Difference[] => {
  const nameless = ({ link, ...rest }: CheckedTag) => ({ ...rest, link: link && { kind: link.kind, settings: link.settings } })
  return differencesBetween(nameless(checked), nameless(now))
}
