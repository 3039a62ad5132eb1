import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { changeDescription } from '#shared/api/deviceDescriptions'
import { fault } from '#core/faults/catalogue'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { listedDescriptions, readDescriptionFile } from '../../sensors/descriptions'
import { lockedRow, requireRevision, rowOf, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeDescription, async ({ event, params, body: { revision, language } }) => {
  const { name, document } = thingOf('deviceDescription', await rowOf('deviceDescription', params.id))
  const [read] = await readDescriptionFile(name, Buffer.from(document), language)
  if (!read?.ok) throw new Refusal(fault('iolink.description', read ?? { file: name, line: 0, problem: 'it is empty' }))
  await changeConfiguration(database(), whoIs(event), `Told “${name}” in another language`, async (editor) => {
    const before = await lockedRow(editor, 'deviceDescription', params.id)
    await requireRevision(editor, 'deviceDescription', before, before.name, revision, (await listedDescriptions(params.id))[0])
    return editor.update('deviceDescription', before, { language: read.description.language, name: read.description.name })
  })
  return (await listedDescriptions(params.id))[0]!
})
