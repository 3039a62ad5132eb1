import type { CertificateFacts } from '#core/certificates/judge'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { certificateFacts } from '#security/certificateFacts'
import { decideCertificate } from '#shared/api/certificates'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(decideCertificate, async ({ event, body: { der, verdict, despite } }) => {
  const facts = readable(der)
  const columns = { verdict, despite, name: facts.name, der: Buffer.from(der, 'base64').toString('base64') }
  const what = `${verdict === 'trusted' ? 'Trusted' : 'Refused'} the certificate of “${facts.name}”`
  const { result } = await changeConfiguration(database(), whoIs(event), what, async (editor) => {
    const before = await editor.db.selectFrom('certificate').selectAll().where('fingerprint', '=', facts.fingerprint).executeTakeFirst()
    if (before) return editor.update('certificate', before, columns)
    const [made] = await editor.insert('certificate', [{ ...columns, fingerprint: facts.fingerprint }])
    return made!
  })
  return thingOf('certificate', result)
})

const readable = (der: string): CertificateFacts => {
  try {
    return certificateFacts(Buffer.from(der, 'base64'))
  } catch (error) {
    throw new Refusal(fault('certificate.unreadable', { what: 'certificate' }, (error as Error).message))
  }
}
