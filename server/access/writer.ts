import type { H3Event } from 'h3'
import { getRequestIP } from 'h3'
import type { Writer } from '#shared/writes'
import { requireWho } from './access'

/** Who writes to the plant by this request, as the journal records it. */
export const writerOf = (event: H3Event): Writer => {
  const { name, personId } = requireWho(event)
  return { who: name, via: personId === null ? 'token' : 'page', place: getRequestIP(event) ?? '' }
}

/** The link's own limits end a write before this: how long it may wait, and how long for its answer. */
export const longestWriteMs = 150_000
