import type { CertificateFacts } from '#core/certificates/judge'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { decideAbout } from '#db/trust'
import { certificateFacts } from '#security/certificateFacts'
import { decideCertificate } from '#shared/api/certificates'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(decideCertificate, async ({ event, body: { der, verdict, despite } }) => {
  const facts = readable(der)
  const what = `${verdict === 'trusted' ? 'Trusted' : 'Refused'} the certificate of “${facts.name}”`
  const decision = { facts, der: Buffer.from(der, 'base64'), verdict, despite }
  const { result } = await changeConfiguration(database(), whoIs(event), what, (editor) => decideAbout(editor, decision))
  return thingOf('certificate', result)
})

const readable = (der: string): CertificateFacts => {
  try {
    return certificateFacts(Buffer.from(der, 'base64'))
  } catch (error) {
    throw new Refusal(fault('certificate.unreadable', { what: 'certificate' }, (error as Error).message))
  }
}
