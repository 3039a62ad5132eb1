import { z } from 'zod'
import { roles } from '#core/access/roles'
import { nameField, wholeNumber } from '#core/contracts/fields'

const roleField = z.enum(roles, { error: `A role is ${roles.join(', ')}.` })

export const whoContract = z
  .object({
    name: z.string(),
    role: roleField,
    mustChange: z.boolean().describe('The password was given by somebody else and has to be changed before anything else.'),
  })
  .meta({ id: 'Who' })
export type Who = z.output<typeof whoContract>

export const personContract = z
  .object({
    id: z.int(),
    name: z.string(),
    role: roleField,
    on: z.boolean(),
    mustChange: z.boolean(),
    madeAt: z.iso.datetime(),
    seenAt: z.iso.datetime().nullable(),
  })
  .meta({ id: 'Person' })
export type Person = z.output<typeof personContract>

export const apiToken = z
  .object({
    id: z.int(),
    name: z.string(),
    role: roleField,
    madeBy: z.string(),
    madeAt: z.iso.datetime(),
    expiresAt: z.iso.datetime(),
    usedAt: z.iso.datetime().nullable(),
  })
  .meta({ id: 'ApiToken', description: 'A token of a program; what it is was told once only.' })
export type ApiToken = z.output<typeof apiToken>

const shortestPassword = 10

export const passwordField = z
  .string({ error: 'A password.' })
  .min(shortestPassword, `A password has at least ${shortestPassword} characters.`)
  .max(200, 'A password has at most 200 characters.')

export const signIn = z.object({
  name: z.string({ error: 'Your name.' }).trim().min(1, 'Your name.').max(80, 'A name has at most 80 characters.'),
  password: z.string({ error: 'Your password.' }).min(1, 'Your password.').max(200, 'A password has at most 200 characters.'),
})

export const passwordChange = z
  .object({ present: z.string({ error: 'Your present password.' }).min(1, 'Your present password.').max(200), next: passwordField })
  .refine(({ present, next }) => present !== next, { message: 'The new password is the old one.', path: ['next'] })

export const newPerson = z.object({ name: nameField('person'), role: roleField })
export const personChange = z.object({ role: roleField, on: z.boolean() })
export const newApiToken = z.object({
  name: nameField('token'),
  role: roleField,
  days: wholeNumber('The time it is valid, in days,', 1, 730),
})
