import { z } from 'zod'
import { hostField, lineField, milliseconds, portField, wholeNumber } from '../contracts/fields'
import { tlsField } from '../contracts/protection'
import { secretField } from '../contracts/secret'

export const sqlDialects = ['postgresql', 'mysql'] as const
export type SqlDialect = (typeof sqlDialects)[number]
export const dialectText: Record<SqlDialect, string> = { postgresql: 'PostgreSQL', mysql: 'MySQL or MariaDB' }
export const usualPort: Record<SqlDialect, number> = { postgresql: 5432, mysql: 3306 }

/** What a link to a database is set to. Everything but host, database and account has a default that fits most. */
export const sqlSettings = z.object({
  dialect: z.enum(sqlDialects).default('postgresql'),
  host: hostField.describe('Name or numeric address of the database server.'),
  port: portField.default(5432),
  database: lineField('A database', 63).min(1, 'The database on that server.'),
  user: lineField('A name', 63).min(1, 'The account to sign in with.'),
  password: secretField('The password of the account.'),
  tls: tlsField,
  readOnly: z.boolean().default(false).describe('Nothing is written, whatever bridges want.'),
  connections: wholeNumber('The number of connections', 1, 20).default(4),
  patience: z
    .object({
      connect: milliseconds('The time to connect', 100, 60_000).default(5000),
      answer: milliseconds('The time of a statement', 100, 600_000).default(15_000),
      retryFirst: milliseconds('The first pause', 100, 600_000).default(1000),
      retryMost: milliseconds('The longest pause', 100, 3_600_000).default(30_000),
    })
    .refine((p) => p.retryFirst <= p.retryMost, { message: 'The longest pause is not below the first.', path: ['retryMost'] })
    .prefault({}),
})
export type SqlSettings = z.output<typeof sqlSettings>

/** Nothing: a database has no points. */
export const sqlPoint = z.object({})
