import type { CertificateFacts, CertificateProblem } from '#core/certificates/judge'
import type { Editor, Row } from './editor'

interface Decision {
  facts: CertificateFacts
  der: Buffer
  verdict: 'trusted' | 'refused'
  /** What is wrong with it, and accepted. */
  despite: CertificateProblem['kind'][]
}

/** Decides about a certificate; a later decision takes the place of an earlier one. */
export const decideAbout = async (editor: Editor, { facts, der, verdict, despite }: Decision): Promise<Row<'certificate'>> => {
  const columns = { verdict, despite, name: facts.name, der: der.toString('base64') }
  const before = await editor.db.selectFrom('certificate').selectAll().where('fingerprint', '=', facts.fingerprint).executeTakeFirst()
  if (before) return editor.update('certificate', before, columns)
  const [made] = await editor.insert('certificate', [{ ...columns, fingerprint: facts.fingerprint }])
  return made!
}
