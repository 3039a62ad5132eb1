import { z } from 'zod'
import { isVisible } from '../text/visible'

/** Fields that several contracts share. Messages stand beside the field as they are written here. */

const grouped = (value: number) => value.toLocaleString('en-GB')

export const wholeNumber = (what: string, low: number, high: number) => {
  const message = `${what} is a whole number from ${grouped(low)} to ${grouped(high)}.`
  return z.int({ error: message }).min(low, message).max(high, message)
}

export const milliseconds = (what: string, low: number, high: number) => {
  const message = `${what} is ${grouped(low)} to ${grouped(high)} ms.`
  return z.int({ error: message }).min(low, message).max(high, message)
}

/** A moment as it travels. */
export const momentField = z.number().describe('Unix milliseconds.')

/** The largest whole number that a column of ids or counts takes. */
export const mostInteger = 2_147_483_647

/** A whole number in an address, where everything is text. */
export const numberText = (low: number, high = mostInteger) => {
  const message = `A whole number from ${grouped(low)} to ${grouped(high)}.`
  return z
    .string({ error: message })
    .regex(/^\d{1,16}$/, message)
    .transform(Number)
    .pipe(z.int().min(low, message).max(high, message))
}

/** What every saved thing has besides. */
export const savedShape = {
  id: z.int(),
  revision: z.int().describe('The site revision that last changed it. Changes name the one they started from.'),
}

export const idField = (what: string) => wholeNumber(what, 1, mostInteger)

const shows = 'All characters show: no control, zero-width or direction characters.'
/** A line of text, with nothing in it that would not show. */
export const lineField = (what: string, most: number) =>
  z
    .string({ error: `${what} is text.` })
    .trim()
    .max(most, `${what} has at most ${most.toLocaleString('en-GB')} characters.`)
    .refine(isVisible, shows)

const portMessage = 'A TCP port is 1 to 65535.'
export const portField = z.int({ error: portMessage }).min(1, portMessage).max(65_535, portMessage)

/** How long to wait for a device that answers requests, ms. @param answer the usual time to answer */
export const patienceWith = (answer: number) =>
  z
    .object({
      connect: milliseconds('The time to connect', 100, 60_000).default(3000),
      answer: milliseconds('The time to answer', 20, 60_000).default(answer),
      retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
      retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
    })
    .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
    .describe('How long to wait, ms: to connect, for an answer, and between two tries.')
    .prefault({})

/** So long a write may wait for its turn. Less than a page waits for its answer. */
export const writeWithin = milliseconds('The time a write may wait', 100, 20_000).default(10_000)

const hostName = /^(?=.{1,253}$)[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?(\.[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?)*\.?$/i
const numericV4 = /^\d+(\.\d+){3}$/

const isV4 = (text: string) => numericV4.test(text) && text.split('.').every((part) => Number(part) <= 255)
const isV6 = (text: string) => z.ipv6().safeParse(text).success

export const hostField = z
  .string({ error: 'A host is a name or a numeric address.' })
  .trim()
  .min(1, 'Type the name or the numeric address of the device.')
  .refine((text) => !text.includes('://'), 'Only the name or address; the port has its own field.')
  .refine((text) => text.includes('://') || !numericV4.test(text) || isV4(text), 'Each part of a numeric address is 0 to 255.')
  .refine(
    (text) => text === '' || text.includes('://') || hostName.test(text) || isV6(text),
    'This is neither a host name nor a numeric address.',
  )

export const localAddressField = z
  .string()
  .trim()
  .refine((text) => text === '' || isV4(text) || isV6(text), 'A numeric address of this machine, or nothing.')
  .default('')

export const nameField = (what: string) =>
  z
    .string({ error: `A ${what} needs a name.` })
    .trim()
    .min(1, `A ${what} needs a name.`)
    .max(80, 'A name has at most 80 characters.')
    .refine(isVisible, 'A name shows all of its characters: no control, zero-width or direction characters.')
