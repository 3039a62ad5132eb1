import { z } from 'zod'
import { rolledUp } from '#core/equipment/rollup'
import { rollupWays } from '#core/equipment/settings'
import { windowUnits, windowProblem, windowsBetween } from '#core/equipment/windows'
import { fault } from '#core/faults/catalogue'
import { jsonOf, type Carried } from '#core/messages/carried'
import { sampleJson } from '#core/outlets/published'
import { qualityName } from '#core/tags/quality'
import { whyNot, type Past } from '../../history/past'
import { sampleRecorded } from '#core/history/recordedValue'
import type { OutletTag } from '../driver'
import type { Answered, Asked, Handler } from './asked'
import { json, problem } from './reply'
import type { TagShelf } from './tagShelf'

const usualSamples = 1000
const mostSamples = 10_000
const mostWindows = 2000
const usualSpanMs = 3_600_000

/** A moment as programs write it: a time by ISO 8601, or Unix milliseconds. */
const moment = z
  .string()
  .transform((text) => (/^\d+$/.test(text) ? Number(text) : Date.parse(text)))
  .pipe(z.number({ error: 'is a time such as 2026-11-28T05:00:00Z' }).max(8_640_000_000_000_000))

/** As in `15 minute` or `day`. */
const each = z
  .string()
  .regex(/^(\d{1,4} ?)?[a-z]+$/, 'is a window such as 15 minute, hour or day')
  .transform((text) => ({ count: Number.parseInt(text, 10) || 1, unit: text.replace(/^\d+ ?/, '').replace(/s$/, '') }))
  .pipe(z.object({ count: z.number(), unit: z.enum(windowUnits, { error: `is in ${windowUnits.join('s, ')}s` }) }))
  .superRefine((window, context) => {
    const wrong = windowProblem(window)
    if (wrong) context.addIssue({ code: 'custom', message: wrong })
  })

const asked = z.object({
  from: moment.optional(),
  to: moment.optional(),
  limit: z.coerce.number().int().min(1).max(mostSamples).default(usualSamples),
  each: each.optional(),
  how: z.enum(rollupWays, { error: `is one of ${rollupWays.join(', ')}` }).default('mean by time'),
})

interface Around {
  shelf: TagShelf
  past: Past
}

/** What was recorded of a tag: single samples, or what became of it over windows. */
export const pastHandler = ({ shelf, past }: Around): Handler => {
  const samples = async (tag: OutletTag, from: number, to: number, limit: number): Promise<Answered> => {
    const found = await past.samples({ id: tag.id, from, to, most: limit + 1 })
    const items = found.slice(0, limit).map((sample) => {
      const { value, quality } = sampleRecorded(sample, tag.type)
      return sampleJson({ value, quality, sourceTime: sample.at, type: tag.type, unit: '', names: tag.names })
    })
    const next = found.length > limit ? new Date(found[limit]!.at).toISOString() : null
    return json(`{${headOf(tag)},"items":[${items.join(',')}],"next":${JSON.stringify(next)}}`)
  }

  const windows = async (tag: OutletTag, from: number, to: number, window: z.output<typeof each>, how: z.output<typeof asked>['how']) => {
    const borders = windowsBetween(window, from, to, past.zone(), mostWindows)
    if (!borders) return wrong(`there are more than ${mostWindows} windows in this span`)
    const items = (await past.intervals(tag.id, borders)).map((one): Carried => {
      const { value, quality } = rolledUp(how, one.whole, one.until)
      return { from: new Date(one.from).toISOString(), to: new Date(one.to).toISOString(), value, quality: qualityName(quality) }
    })
    return json(`{${headOf(tag)},"items":${jsonOf(items)}}`)
  }

  return async ({ guest, query }: Asked, { '*': path = '' }) => {
    const tag = shelf.get(path)
    if (!tag || guest.rules.at(path) === 'nothing') return problem(fault('serve.no-tag', { path: path.slice(0, 240) }))
    const read = asked.safeParse(Object.fromEntries(query))
    if (!read.success) return wrong(read.error.issues.map(({ path: of, message }) => `${of.join('.')}: ${message}`).join('; '))
    const { to = Date.now(), from = to - usualSpanMs, limit, each: window, how } = read.data
    if (from >= to) return wrong('“from” lies before “to”')
    try {
      return await (window ? windows(tag, from, to, window, how) : samples(tag, from, to, limit))
    } catch (error) {
      return problem(fault('serve.no-history', { path, problem: whyNot(error) }))
    }
  }
}

const headOf = ({ path, type, unit }: OutletTag) =>
  `"path":${JSON.stringify(path)},"type":"${type}"${unit ? `,"unit":${JSON.stringify(unit)}` : ''}`
const wrong = (problems: string) => problem(fault('serve.parameters', { problems }))
