import { z } from 'zod'
import { lineField, milliseconds, mostInteger, patienceWith, wholeNumber, writeWithin } from '../contracts/fields'
import { httpSettings } from '../http/settings'

/** A device that belongs at a port: another one is told. */
const expected = z.object({
  port: wholeNumber('A port', 1, 255),
  vendorId: wholeNumber('A vendor id', 0, 65_535),
  deviceId: wholeNumber('A device id', 0, 0xffffff),
  named: lineField('A name', 200).default('').describe('As its description calls it.'),
  when: z
    .object({
      index: wholeNumber('An index', 0, 65_535),
      subindex: wholeNumber('A subindex', 0, 255).default(0),
      value: wholeNumber('A value', 0, mostInteger),
    })
    .nullable()
    .default(null)
    .describe('The process data of some devices lie as a parameter decides: they are taken only while it is this.'),
})
export type ExpectedDevice = z.output<typeof expected>

/** What a link to a master of smart sensors is set to (JSON Integration for IO-Link). */
export const ioLinkSettings = z.object({
  base: httpSettings.shape.base.describe('Where its interface begins, as in http://10.0.9.4/iolink/v1.'),
  master: wholeNumber('A master', 1, 255).default(1).describe('Of several behind one address.'),
  trust: httpSettings.shape.trust,
  signIn: httpSettings.shape.signIn,
  interval: milliseconds('The interval', 50, 86_400_000)
    .default(500)
    .describe('How often process data are read for tags that choose no interval of their own, ms.'),
  parameters: milliseconds('The interval of parameters', 200, 86_400_000)
    .default(10_000)
    .describe('How often parameters are read for tags that choose no interval of their own, ms.'),
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

export const textForms = ['text', 'hex'] as const

/** What a value behind a port may have of its own. */
export const ioLinkPoint = z.object({
  form: z
    .enum(textForms, { error: 'A form is text or hex.' })
    .optional()
    .describe('What letters are made of: text as it stands, or octets in hex. Left out: text.'),
})
export type IoLinkPointOptions = z.output<typeof ioLinkPoint>
