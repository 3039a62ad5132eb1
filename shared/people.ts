import { z } from 'zod'
import { roles, type Role } from '#core/access/roles'
import { nameField, wholeNumber } from './fields'

export interface Who {
  name: string
  role: Role
  /** The password was given by somebody else and has to be changed before anything else. */
  mustChange: boolean
}

export interface Person {
  id: number
  name: string
  role: Role
  on: boolean
  mustChange: boolean
  madeAt: string
  seenAt: string | null
}

export interface ApiToken {
  id: number
  name: string
  role: Role
  madeBy: string
  madeAt: string
  expiresAt: string
  usedAt: string | null
}

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

const roleField = z.enum(roles, { error: `A role is ${roles.join(', ')}.` })

export const newPerson = z.object({ name: nameField('person'), role: roleField })
export const personChange = z.object({ role: roleField, on: z.boolean() })
export const newApiToken = z.object({
  name: nameField('token'),
  role: roleField,
  days: wholeNumber('The time it is valid, in days,', 1, 730),
})
