import { z } from 'zod'
import { hostField, lineField, milliseconds, portField, wholeNumber } from '../contracts/fields'
import { headerName, headerValue } from '../contracts/headerFields'
import { certificateText, clientCertificate } from '../contracts/protection'
import { secretField } from '../contracts/secret'
import { baseProblem, urlProblem } from './base'
import { methods, operationProblem, templateProblem } from './operation'

const optional = z.boolean().default(false).describe('It is left out where nothing is given for it.')

const template = (most: number) =>
  z
    .string()
    .max(most, `At most ${most.toLocaleString('en-GB')} characters.`)
    .superRefine((text, context) => {
      const problem = templateProblem(text)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    })

export const operationName = z
  .string()
  .trim()
  .regex(/^[A-Za-z0-9_.-]{1,80}$/, 'A name of letters, digits, “_”, “-” and “.”, at most 80.')

/** What is asked of a web API under one name. What stands in braces is filled in with each call. */
export const operationContract = z
  .object({
    name: operationName,
    method: z.enum(methods).default('GET'),
    path: template(2000).default('').describe('Below the base address, as in /tariffs/{zone}.'),
    query: z
      .array(z.object({ name: lineField('A name', 100).min(1, 'A name.'), value: template(4000).default(''), optional }))
      .max(50)
      .default([]),
    headers: z
      .array(z.object({ name: headerName, value: headerValue, optional }))
      .max(50)
      .default([]),
    body: z.string().max(100_000, 'At most 100,000 characters.').default('').describe('JSON, or any other text; empty: none.'),
    type: lineField('A media type', 200).default('application/json').describe('What the body is.'),
    example: z.string().max(200_000).default('').describe('An answer that was kept, to point at.'),
  })
  .superRefine((operation, context) => {
    const problem = operationProblem(operation)
    if (problem) context.addIssue({ code: 'custom', message: problem.message, path: [problem.field] })
  })
export type Operation = z.output<typeof operationContract>

const signIn = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  z.object({
    kind: z.literal('basic'),
    user: lineField('A name', 200).min(1, 'The name to sign in with.'),
    password: secretField('The password to sign in with.'),
  }),
  z.object({ kind: z.literal('bearer'), token: secretField('The token that they gave.') }),
  z.object({
    kind: z.literal('key'),
    in: z.enum(['header', 'query']).default('header'),
    name: headerName.default('X-API-Key'),
    key: secretField('The key that they gave.'),
  }),
  z
    .object({
      kind: z.literal('oauth'),
      tokenAddress: z
        .string()
        .trim()
        .max(1000, 'At most 1,000 characters.')
        .superRefine((text, context) => {
          const problem = urlProblem(text)
          if (problem) context.addIssue({ code: 'custom', message: problem })
        })
        .describe('Where tokens are given out.'),
      clientId: lineField('A client id', 200).min(1, 'The id of our client there.'),
      secret: secretField('The secret of our client there.'),
      scope: lineField('A scope', 1000).default('').describe('What is wanted, as their description has it; empty: what they give anyway.'),
      how: z.enum(['header', 'body']).default('header').describe('Where id and secret stand when a token is asked for.'),
    })
    .describe('OAuth 2.0 client credentials (RFC 6749, 4.4).'),
])

const proxy = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  z.object({
    kind: z.literal('http'),
    host: hostField,
    port: portField.default(3128),
    identity: z
      .discriminatedUnion('kind', [
        z.object({ kind: z.literal('anonymous') }),
        z.object({
          kind: z.literal('password'),
          user: lineField('A name', 200).min(1, 'The name to sign in with.'),
          password: secretField('The password to sign in with.'),
        }),
      ])
      .default({ kind: 'anonymous' }),
  }),
])

/** What a link to a web API is set to. Everything but the base address has a default that fits most. */
export const httpSettings = z.object({
  base: z
    .string()
    .trim()
    .max(1000, 'At most 1,000 characters.')
    .superRefine((text, context) => {
      const problem = baseProblem(text)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    })
    .describe('What all its addresses begin with, as in https://tariffs.example/v1.'),
  trust: z
    .object({
      verify: z.boolean().default(true).describe('Their certificate has to be of this name, and of a known authority.'),
      authority: certificateText
        .default('')
        .describe('Certificates of authorities to believe, in PEM; empty: those that this machine knows.'),
      certificate: clientCertificate.default({ kind: 'none' }).describe('By which certificate of ours the connection shows whose it is.'),
    })
    .prefault({}),
  proxy: proxy.default({ kind: 'none' }).describe('What stands between us and the far side.'),
  signIn: signIn.default({ kind: 'none' }),
  headers: z
    .array(z.object({ name: headerName, value: headerValue }))
    .max(50)
    .default([])
    .describe('With every call.'),
  operations: z
    .array(operationContract)
    .max(500, 'At most 500 operations.')
    .default([])
    .superRefine((all, context) => {
      for (const [i, { name }] of all.entries())
        if (all.findIndex((other) => other.name === name) !== i)
          context.addIssue({ code: 'custom', message: `There are two operations “${name}”.`, path: [i, 'name'] })
    }),
  interval: milliseconds('The interval', 100, 86_400_000)
    .default(60_000)
    .describe('So often a call is made for tags that choose no interval, ms.'),
  atOnce: wholeNumber('The number of calls at once', 1, 50).default(4),
  perMinute: wholeNumber('The number of calls a minute', 1, 60_000).nullable().default(null).describe('Null: as many as are wanted.'),
  largest: wholeNumber('The largest answer', 1, 16).default(4).describe('MB; a larger one is not read to its end.'),
  patience: z
    .object({
      connect: milliseconds('The time to connect', 100, 60_000).default(5000),
      answer: milliseconds('The time to answer', 100, 600_000).default(15_000),
      retryFirst: milliseconds('The first pause', 100, 600_000).default(2000),
      retryMost: milliseconds('The longest pause', 100, 3_600_000).default(60_000),
    })
    .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
    .prefault({}),
})
export type HttpSettings = z.output<typeof httpSettings>

const pathField = z.string().trim().max(400, 'At most 400 characters.')

/** What a point of a link to a web API may have of its own. */
export const httpPoint = z.object({
  path: pathField.optional().describe('Where in the answer the value is (JSONPath, RFC 9535); left out: the answer is the value.'),
  time: pathField.optional().describe('Where in the answer it says when the value was made; left out: when it came here.'),
  setBy: z
    .string()
    .trim()
    .max(2000)
    .optional()
    .describe('The call by which a written value is sent, as {value}; left out: it cannot be written.'),
})
export type HttpPointOptions = z.output<typeof httpPoint>
