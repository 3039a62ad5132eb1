import type { Fault } from '#core/faults/catalogue'
import type { FieldMessage } from '#shared/faults'

/** Thrown by whoever does not do what was asked; `defineRoute` turns it into an answer. */
export class Refusal extends Error {
  constructor(
    readonly why: Fault,
    readonly fields: FieldMessage[] = [],
    /** More for the page, such as the version somebody else saved. */
    readonly more: Record<string, unknown> = {},
  ) {
    super(why.what)
  }
}
