import { z } from 'zod'

/** What masters say over HTTP as JSON (JSON Integration for IO-Link, version 1.0), as far as it is used here. What else comes is left alone. */

const octets = z.array(z.int().min(0).max(255)).max(2048)

export const masterIdentification = z.object({
  vendorName: z.string().default(''),
  vendorId: z.int().optional(),
  productName: z.string().default(''),
  serialNumber: z.string().default(''),
  firmwareRevision: z.string().default(''),
})

export const portList = z
  .array(z.object({ portNumber: z.int().min(1).max(255), statusInfo: z.string(), deviceAlias: z.string().optional() }))
  .max(255)

export const deviceIdentification = z.object({
  vendorId: z.int().min(0).max(65_535),
  deviceId: z.int().min(0).max(0xffffff),
  iolinkRevision: z.string().default(''),
  vendorName: z.string().default(''),
  productName: z.string().default(''),
  productId: z.string().default(''),
  serialNumber: z.string().default(''),
  applicationSpecificTag: z.string().default(''),
})
export type DeviceIdentification = z.output<typeof deviceIdentification>

/** `valid` false: the device says itself that these are no values. */
const side = z.object({ valid: z.boolean(), value: octets })
export const processDataValue = z.object({
  getData: z.object({ ioLink: side.optional(), cqValue: z.boolean().optional(), iqValue: z.boolean().optional() }).optional(),
  setData: z.object({ ioLink: side.optional(), cqValue: z.boolean().optional() }).optional(),
})
export type ProcessDataValue = z.output<typeof processDataValue>

const eventCode = z.union([
  z.int(),
  z
    .string()
    .regex(/^(0x)?[0-9a-f]{1,8}$/i)
    .transform((text) => (/^\d+$/.test(text) ? Number(text) : parseInt(text.replace(/^0x/i, ''), 16))),
])
export const eventList = z
  .array(
    z.object({
      time: z.string().default(''),
      severity: z.string().default(''),
      origin: z
        .object({ masterNumber: z.int().optional(), portNumber: z.int().optional(), deviceAlias: z.string().optional() })
        .default({}),
      message: z.object({ code: eventCode, mode: z.string().default('SINGLESHOT'), text: z.string().default('') }),
    }),
  )
  .max(20_000)
export type EventList = z.output<typeof eventList>

export const parameterValue = z.object({ value: octets })

/** An error of the interface itself. */
export const errorAnswer = z.object({ code: z.int(), message: z.string().default('') })
