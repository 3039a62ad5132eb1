import { z } from 'zod'
import { hostField, localAddressField, milliseconds, portField, wholeNumber, writeWithin } from '../contracts/fields'
import { mostInstance } from './objectId'
import { parseRange } from './range'

const udpPort = 47_808

const knownDevice = z.object({
  instance: wholeNumber('A device’s number', 0, mostInstance),
  host: hostField.describe('Name or numeric address.'),
  port: portField.default(udpPort),
})

const priorityField = wholeNumber('A priority', 1, 16)
const increment = z
  .number({ error: 'An increment is a number above 0.' })
  .positive('An increment is a number above 0.')
  .max(1e9, 'An increment is at most 1,000,000,000.')

export const noticeKinds = ['confirmed', 'unconfirmed', 'off'] as const
export type NoticeKind = (typeof noticeKinds)[number]

/** What a link to devices of a BACnet/IP network is set to (ANSI/ASHRAE 135, Annex J). */
export const bacnetSettings = z.object({
  localAddress: localAddressField.describe('The address of the network interface to use; empty: as the system chooses.'),
  port: wholeNumber('A UDP port', 0, 65_535)
    .default(udpPort)
    .describe('Our own UDP port; answers to broadcasts come to the usual one only. 0: any that is free.'),
  broadcast: localAddressField.describe('Where “who is there” is sent; empty: to all of the interface’s network.'),
  foreign: z
    .object({
      host: hostField.describe('The broadcast manager (BBMD) of the network.'),
      port: portField.default(udpPort),
      lifetime: wholeNumber('A lifetime', 30, 65_535).default(300).describe('Seconds; it is renewed before.'),
    })
    .nullable()
    .default(null)
    .describe('Takes part in a network behind routers, as a foreign device; null: it does not.'),
  devices: z
    .array(knownDevice)
    .max(500, 'At most 500 devices.')
    .superRefine((devices, context) => {
      for (const [i, { instance }] of devices.entries())
        if (devices.findIndex((one) => one.instance === instance) < i)
          context.addIssue({ code: 'custom', path: [i, 'instance'], message: 'Another line has this device already.' })
    })
    .default([])
    .describe('Devices whose address is known: they are asked there, and need no broadcast.'),
  ask: z
    .string()
    .trim()
    .max(100, 'At most 100 characters.')
    .refine((text) => text === '' || parseRange(text) !== null, 'Numbers of devices from and to, as in 4000-4099; empty: all.')
    .default('')
    .describe('Which devices are looked for, by their numbers; empty: all.'),
  interval: milliseconds('The interval', 100, 86_400_000)
    .default(5000)
    .describe('How often tags are read that choose no interval of their own, and of which no change is notified, ms.'),
  patience: z
    .object({
      answer: milliseconds('The time to answer', 50, 60_000).default(3000),
      repeats: wholeNumber('Repeats', 0, 5).default(1).describe('How often a request is sent again that got no answer.'),
      retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
      retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
    })
    .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
    .describe('How long to wait, ms: for an answer, and between two tries to find a device.')
    .prefault({}),
  notices: z
    .object({
      kind: z.enum(noticeKinds).default('unconfirmed').describe('How devices tell changes: with a receipt, without, or not at all.'),
      lifetime: wholeNumber('A lifetime', 60, 86_400).default(600).describe('Seconds of a subscription; it is renewed before they end.'),
      compare: wholeNumber('The time between two comparisons', 5, 3600)
        .default(60)
        .describe('Seconds after which a value that is notified is read as well, to find notifications that do not arrive.'),
    })
    .refine((n) => n.compare < n.lifetime, { message: 'Compared more often than the subscription ends.', path: ['compare'] })
    .prefault({}),
  requests: z
    .object({
      most: wholeNumber('Objects in a request', 1, 200).default(60).describe('Devices that take less are asked for less by themselves.'),
      parallel: wholeNumber('Requests under way at once', 1, 16).default(1).describe('For each device; many take one at a time only.'),
      flags: z
        .boolean()
        .default(true)
        .describe('Reads the status flags beside each present value: a value that is in fault or out of service is not good.'),
    })
    .prefault({}),
  writes: z
    .object({
      priority: priorityField.nullable().default(null).describe('For tags that choose none, 1 to 16; null: none is named.'),
      keep: z.enum(['all', 'latest']).default('all'),
      within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
    })
    .prefault({}),
})
export type BacnetSettings = z.output<typeof bacnetSettings>

/** What a point in a device may have of its own. */
export const bacnetPoint = z.object({
  notices: z
    .enum(noticeKinds, { error: `Notices are one of ${noticeKinds.join(', ')}.` })
    .optional()
    .describe('Left out: as the link has it.'),
  increment: increment.optional().describe('The change that is worth a notification; left out: as the object has it.'),
  priority: priorityField.optional().describe('At which it is written; left out: as the link has it.'),
})
export type BacnetPointOptions = z.output<typeof bacnetPoint>
