import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Seal } from '#security/seal'
import { writeWhole } from '#security/wholeFile'
import type { StandbyPack } from '#shared/nodeRpc'

/** What a machine needs to lead the site: given over the connection by which it joins, sealed for its key, and never in the database. */

const authorityFiles = { certificate: 'authority.pem', key: 'authority.key.sealed' } as const

/** @param seal the secret of this site from which the key for sealing is made */
export const packOf = (stateFolder: string, databaseUrl: string, seal: string): StandbyPack => {
  const read = (name: string) => readFileSync(join(stateFolder, 'authority', name), 'utf8')
  return { databaseUrl, seal, authority: { certificate: read(authorityFiles.certificate), key: read(authorityFiles.key) } }
}

/** Keeps it where the launcher and the engine find it. @returns the seal of the site */
export const takePack = (stateFolder: string, { databaseUrl, seal, authority }: StandbyPack): Seal => {
  const folder = join(stateFolder, 'authority')
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  writeWhole(join(folder, authorityFiles.key), authority.key)
  writeWhole(join(folder, authorityFiles.certificate), authority.certificate)
  const file = join(stateFolder, 'secrets.json')
  const secrets = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, string>) : {}
  writeWhole(file, JSON.stringify({ ...secrets, seal, databaseUrl }, null, 2))
  return new Seal(seal)
}
