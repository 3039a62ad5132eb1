import { changeConfiguration } from '#db/configuration'
import { idOf, lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** Takes a decision back: whoever shows the certificate is a stranger again. */
export default defineRoute('configure', async (event) => {
  const id = idOf(event)
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Forgot a certificate', async (editor) => {
    const certificate = await lockedRow(editor, 'certificate', id)
    editor.what = `Forgot the certificate of “${certificate.name}”`
    await editor.remove('certificate', [certificate])
  })
  return { removed: id, revision }
})
