import type { Fault } from '../faults/catalogue'
import type { Payload } from '../messages/payload'
import type { Carried } from '../messages/carried'
import type { ValueName } from '../tags/valueNames'

/** What set a bridge off. */
export interface Occasion {
  by: 'tag' | 'message' | 'file' | 'clock' | 'hand'
  /** Which of its triggers, counted from 0; null: a person. */
  trigger: number | null
  /** Unix milliseconds: the source time of the tag, when the message came, when the clock said so. */
  at: number
  /** Of the tag. */
  path: string
  unit: string
  /** What its values are called. */
  names?: readonly ValueName[]
  value: Carried
  quality: number
  /** Of the message; of a file, its name below the folder of its link. */
  topic: string
  payload: Payload | null
  /** Where in a file it stood, so that it is taken once. */
  source?: Source
  /** Told once all that came of it is kept, or nothing did, and then why: the sender may forget it. */
  settled?(why?: Fault): void
  /** Told once it is known of everything that came of it what became of that. */
  ended?(outcome: RunOutcome): void
}

/** What became of a run: all of it arrived, or the worst of what else did. */
export interface RunOutcome {
  state: 'delivered' | 'kept' | 'refused' | 'dropped' | 'nothing'
  /** Why it did not arrive, as far as that is known. */
  why: Fault | null
}

/** A place in something that is read on and on. */
export interface Source {
  /** Of what; the same over restarts. */
  key: string
  /** Grows with each that is taken from it. */
  at: number
}

export const nothingBut = (by: 'clock' | 'hand', trigger: number | null, at: number): Occasion => ({
  ...{ by, trigger, at, path: '', unit: '', value: null, quality: 0, topic: '', payload: null },
})

/** An input as a run has it. */
export interface InputValue {
  value: Carried
  quality: number
  /** When its source had it, Unix milliseconds; null: it does not say. */
  at: number | null
  unit: string
  /** What its values are called, where they have names. */
  names?: readonly ValueName[]
}

/** Everything that the fields of one run are made from. */
export interface RunFacts {
  occasion: Occasion
  /** When it began, Unix milliseconds. */
  now: number
  number: number
  /** Which of the rows of the run, counted from 1. */
  row: number
  site: string
  bridge: string
  /** In the order in which the bridge has them. */
  inputs: readonly InputValue[]
}
