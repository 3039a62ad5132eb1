import { changeConfiguration } from '#db/configuration'
import { idOf, rowOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { defineRoute } from '../../lib/refusal'

/** Takes a decision back: whoever shows the certificate is a stranger again. */
export default defineRoute('configure', async (event) => {
  const certificate = await rowOf('certificate', idOf(event))
  const { revision } = await changeConfiguration(database(), whoIs(event), `Forgot the certificate of “${certificate.name}”`, (editor) =>
    editor.remove('certificate', [certificate]),
  )
  return { removed: certificate.id, revision }
})
