import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { X509Certificate } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import { z } from 'zod'
import type { Ending } from '#core/upkeep/endings'
import type { ThingOf } from '#db/subjects'
import type { Database } from '#db/tables'

/** What upkeep goes by beside the disk: what ends, and how the site was kept safe. */

const dayMs = 86_400_000
/** A site that is younger is still being made. */
const newForMs = 7 * dayMs

const span = (certificate: X509Certificate) => ({ from: Date.parse(certificate.validFrom), until: Date.parse(certificate.validTo) })

export const ownEnding = (pem: string): Ending => ({
  ...{ kind: 'own certificate', name: commonName(new X509Certificate(pem)), place: '/site/certificates', usedAt: null },
  ...span(new X509Certificate(pem)),
})

export const authorityEnding = (pem: string): Ending => ({
  ...{ kind: 'authority', name: commonName(new X509Certificate(pem)), place: '/site/nodes', usedAt: null },
  ...span(new X509Certificate(pem)),
})

/** Those that somebody trusts; what cannot be read is told elsewhere. */
export const trustedEndings = (all: Iterable<ThingOf['certificate']>): Ending[] =>
  [...all].flatMap(({ verdict, der, name }): Ending[] => {
    if (verdict !== 'trusted') return []
    try {
      const certificate = new X509Certificate(Buffer.from(der, 'base64'))
      return [{ kind: 'trusted certificate', name, place: '/site/certificates', usedAt: null, ...span(certificate) }]
    } catch {
      return []
    }
  })

const commonName = (certificate: X509Certificate) => /^CN=(.*)$/m.exec(certificate.subject)?.[1] ?? certificate.subject

/** Tokens of programs and links of wall screens. */
export const keysEndings = async (db: Kysely<Database>): Promise<Ending[]> => {
  const columns = ['name', 'made_at', 'expires_at', 'used_at'] as const
  const [tokens, walls] = await Promise.all([
    db.selectFrom('api_token').select(columns).execute(),
    db.selectFrom('wall_link').select(columns).execute(),
  ])
  const ending = (kind: Ending['kind'], place: string) => (row: (typeof tokens)[number]) => ({
    ...{
      kind,
      name: row.name,
      place,
      from: row.made_at.getTime(),
      until: row.expires_at.getTime(),
      usedAt: row.used_at?.getTime() ?? null,
    },
  })
  return [...tokens.map(ending('token', '/site/people')), ...walls.map(ending('wall screen', '/displays'))]
}

const lastBackup = z.object({ at: z.number(), file: z.string(), bytes: z.number(), revision: z.int() })
export type LastBackup = z.output<typeof lastBackup>

/** As ./conduit backup notes it. */
export const lastBackupIn = async (stateFolder: string): Promise<LastBackup | null> => {
  const text = await readFile(join(stateFolder, 'last-backup.json'), 'utf8').catch(() => null)
  try {
    return text === null ? null : lastBackup.parse(JSON.parse(text))
  } catch {
    return null
  }
}

/** How far the site is, and whether it is still new. */
export const ageOf = async (db: Kysely<Database>): Promise<{ revision: number; isNew: boolean; databaseBytes: number }> => {
  const site = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
  const { first } = await db
    .selectFrom('revision')
    .select((eb) => eb.fn.min('at').as('first'))
    .executeTakeFirstOrThrow()
  const { rows } = await sql<{ bytes: string }>`select pg_database_size(current_database()) as bytes`.execute(db)
  const isNew = !first || Date.now() - first.getTime() < newForMs
  return { revision: site.revision, isNew, databaseBytes: Number(rows[0]!.bytes) }
}
