import type { Facts } from '../facts'
import { forIt, type Rule } from '../rule'

/** What the failed step says, where it says something of this kind. Ports are no part of that: one may be the same number as a code. */
export const says = ({ fault }: Facts, pattern: RegExp): string | null =>
  pattern.test(`${fault.what} ${fault.evidence}`.replace(ports, '$1')) ? fault.what : null

/** As they stand behind a host, or by themselves. */
const ports = /(:|\b(?:port|TCP|UDP) )\d{1,5}\b/gi

export const told = ({ fault }: Facts) => fault.what

/** A rule whose cause the failed step names by itself. */
export const named = (rule: Omit<Rule, 'signs' | 'next'> & Partial<Pick<Rule, 'signs' | 'next'>>): Rule => ({
  next: ({ fault }) => [fault.next],
  ...rule,
  signs: [forIt('proof', told), ...(rule.signs ?? [])],
})
