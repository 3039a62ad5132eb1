import { z } from 'zod'
import { milliseconds, patienceWith, wholeNumber, writeWithin } from '../contracts/fields'
import { httpSettings } from '../http/settings'

/** A device that belongs at a port: another one is told. */
const expected = z.object({
  port: wholeNumber('A port', 1, 255),
  vendorId: wholeNumber('A vendor id', 0, 65_535),
  deviceId: wholeNumber('A device id', 0, 0xffffff),
})

/** What a link to a master of smart sensors is set to (JSON Integration for IO-Link). */
export const ioLinkSettings = z.object({
  base: httpSettings.shape.base.describe('Where its interface begins, as in http://10.0.9.4/iolink/v1.'),
  master: wholeNumber('A master', 1, 255).default(1).describe('Of several behind one address.'),
  trust: httpSettings.shape.trust,
  signIn: httpSettings.shape.signIn,
  interval: milliseconds('The interval', 50, 86_400_000)
    .default(500)
    .describe('How often process data are read for tags that choose no interval of their own, ms.'),
  look: milliseconds('The time between two looks', 200, 2000).default(1000).describe('How often it is looked what is plugged in, ms.'),
  patience: patienceWith(2000),
  atOnce: wholeNumber('Requests under way at once', 1, 16).default(4),
  within: writeWithin.describe('So long a write may wait, ms; what was not sent by then is not sent at all.'),
  ports: z
    .array(expected)
    .max(255)
    .superRefine((ports, context) => {
      for (const [i, { port }] of ports.entries())
        if (ports.findIndex((one) => one.port === port) < i)
          context.addIssue({ code: 'custom', path: [i, 'port'], message: 'Another line has this port already.' })
    })
    .default([])
    .describe('Which device belongs at which port.'),
})
export type IoLinkSettings = z.output<typeof ioLinkSettings>

/** What a value behind a port may have of its own. */
export const ioLinkPoint = z.object({})
export type IoLinkPointOptions = z.output<typeof ioLinkPoint>
