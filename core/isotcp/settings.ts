import { watchedProgram } from './watched'
import { z } from 'zod'
import { hostField, localAddressField, milliseconds, patienceWith, portField, wholeNumber, writeWithin } from '../contracts/fields'
import { byteOrders, forms } from './layout'
import { connectionKinds, readTsap } from './tsap'

const tsapField = z
  .string({ error: 'A TSAP is text.' })
  .trim()
  .refine((text) => readTsap(text) !== null, 'A TSAP is 1 to 16 bytes in hex, as in 03.01, or text in quotation marks.')

const way = z
  .discriminatedUnion('by', [
    z.object({
      by: z.literal('slot'),
      kind: z.enum(connectionKinds).default('operator'),
      rack: wholeNumber('A rack', 0, 7).default(0),
      slot: wholeNumber('A slot', 0, 31).default(1),
    }),
    z.object({ by: z.literal('tsap'), ours: tsapField.default('01.00'), theirs: tsapField.default('03.01') }),
  ])
  .describe('Where in the controller it goes: by rack and slot, or by both TSAPs.')
  .prefault({ by: 'slot' })

/** What a link to a controller over ISO-on-TCP is set to (RFC 1006). */
export const isoTcpSettings = z.object({
  host: hostField.describe('Name or numeric address.'),
  port: portField.default(102),
  way,
  order: z.enum(byteOrders).default('big').describe('In which order the bytes of numbers lie, for tags that choose none.'),
  interval: milliseconds('The interval', 10, 86_400_000)
    .default(1000)
    .describe('How often tags are read that choose no interval of their own, ms.'),
  patience: patienceWith(2000),
  requests: z
    .object({
      size: wholeNumber('The size of a request', 112, 960)
        .default(480)
        .describe('Bytes of a request or answer (PDU) that are asked for; the controller may grant fewer.'),
      parallel: wholeNumber('Requests under way at once', 1, 16)
        .default(4)
        .describe('For each connection that are asked for; the controller may grant fewer.'),
      connections: wholeNumber('Connections', 1, 16).default(1).describe('More bring more, as far as the controller has places for them.'),
      readAcross: wholeNumber('Gaps read across', 0, 900)
        .default(10)
        .describe('Bytes that nobody asked for and that are read to save a piece of a request.'),
    })
    .prefault({}),
  writes: z
    .object({
      keep: z.enum(['all', 'latest']).default('all'),
      within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
    })
    .prefault({}),
  localAddress: localAddressField.describe('The address of the network interface to use; empty: as the system chooses.'),
  programs: z
    .array(watchedProgram)
    .max(20, 'At most 20 files.')
    .superRefine((programs, context) => {
      for (const [i, { folder }] of programs.entries())
        if (programs.findIndex((one) => one.folder === folder) < i)
          context.addIssue({ code: 'custom', path: [i, 'folder'], message: 'Another file has this folder already.' })
    })
    .default([])
    .describe('Files of its program that are looked into again and again.'),
})
export type IsoTcpSettings = z.output<typeof isoTcpSettings>

/** What a point in a controller may have of its own. */
export const isoTcpPoint = z.object({
  form: z
    .enum(forms, { error: `A form is one of ${forms.join(', ')}.` })
    .optional()
    .describe('How a text, a time or a timer lies in its bytes.'),
  order: z.enum(byteOrders, { error: 'An order is big or little.' }).optional().describe('Left out: as the link has it.'),
  length: z.int({ error: 'A length is a whole number.' }).optional().describe('Characters of a text.'),
  count: z.int({ error: 'A number of elements is a whole number.' }).optional().describe('Elements of an array.'),
})
export type IsoPointOptions = z.output<typeof isoTcpPoint>
