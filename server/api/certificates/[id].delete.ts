import { changeConfiguration } from '#db/configuration'
import { forgetCertificate } from '#shared/api/certificates'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(forgetCertificate, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Forgot a certificate', async (editor) => {
    const certificate = await lockedRow(editor, 'certificate', params.id)
    editor.what = `Forgot the certificate of “${certificate.name}”`
    await editor.remove('certificate', [certificate])
  })
  return { removed: params.id, revision }
})
