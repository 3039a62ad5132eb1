import type { Fault } from '../faults/catalogue'

export const severities = ['note', 'caution', 'trouble'] as const
export type JournalSeverity = (typeof severities)[number]

/** What happened, once or again and again. */
export interface Entry {
  /** Unix milliseconds of the first time, and of the last. */
  at: number
  lastAt: number
  times: number
  severity: JournalSeverity
  source: string
  text: string
  fault: Fault | null
}

/** An entry where it is kept: later ones have higher numbers. */
export interface KeptEntry extends Entry {
  id: number
}

/** What somebody looks for in the journal. */
export interface EntryFilter {
  /** All of these words, in text or source, whatever their case. */
  find?: string | undefined
  severity?: JournalSeverity | undefined
  source?: string | undefined
  /** Unix milliseconds: from here on, and before there. */
  from?: number | undefined
  to?: number | undefined
}
