import type { Generated, JSONColumnType } from 'kysely'
import { certificateContract, type KnownCertificate } from '#shared/certificates'
import { byName, subject, withVisible } from './definition'

export interface CertificateTable {
  id: Generated<number>
  fingerprint: string
  name: string
  verdict: KnownCertificate['verdict']
  der: string
  despite: JSONColumnType<KnownCertificate['despite']>
  revision: number
}

export const certificate = subject<CertificateTable>()({
  contract: certificateContract,
  nameOf: byName,
  text: { section: 'certificates', key: 'fingerprint' },
  needs: [],
  broughtUp: (stored) => withVisible(stored, 'name'),
})
