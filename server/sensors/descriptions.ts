import { fault } from '#core/faults/catalogue'
import type { CataloguedDescription } from '#core/iolink/description/catalogued'
import type { Editor } from '#db/editor'
import { changeConfiguration } from '#db/configuration'
import { readable, thingOf } from '#db/rows'
import { counted } from '#core/text/counted'
import type { DescriptionsLoaded, ListedDescription } from '#shared/sensors'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'
import { tagWorker } from '../worker/tagWorker'
import type { DescriptionOfFile } from '../worker/deviceDescriptions'

/** The descriptions that are loaded, with who loaded them. @param id of one alone */
export const listedDescriptions = async (id?: number): Promise<ListedDescription[]> => {
  const all = database()
    .selectFrom('deviceDescription')
    .innerJoin('revision', 'revision.number', 'deviceDescription.revision')
    .selectAll('deviceDescription')
    .select(['revision.who', 'revision.at'])
  const rows = await (id === undefined ? all : all.where('deviceDescription.id', '=', id)).execute()
  return readable(rows, ({ who, at, ...row }) => {
    const { document, ...rest } = thingOf('deviceDescription', row)
    return { ...rest, who, at: at.toISOString(), size: document.length }
  })
}

/** Reads a file in a thread of its own. */
export const readDescriptionFile = (name: string, bytes: Uint8Array, language: string): Promise<DescriptionOfFile[]> =>
  tagWorker.call((worker) => worker.descriptionsIn(name, bytes, language))

/** Puts what could be read into the catalogue, in one change; refused where nothing could be. */
export const loadInto = async (read: readonly DescriptionOfFile[], who: string): Promise<DescriptionsLoaded> => {
  const refused = read.flatMap((one) => (one.ok ? [] : [{ file: one.file, line: one.line, problem: one.problem }]))
  const good = newestOf(read.flatMap((one) => (one.ok ? [one] : [])))
  if (good.length === 0) throw new Refusal(fault('iolink.description', refused[0]!))
  const { result, revision } = await changeConfiguration(database(), who, whatText(good), async (editor) => {
    const loaded: DescriptionsLoaded['loaded'] = []
    for (const { file, description } of good) loaded.push({ ...(await put(editor, description)), file })
    return loaded
  })
  return { loaded: result, refused, revision }
}

type Good = Extract<DescriptionOfFile, { ok: true }>

const whatText = (good: readonly Good[]) =>
  good.length === 1 ? `Loaded the description of “${good[0]!.description.name}”` : `Loaded ${counted(good.length, 'device description')}`

/** An archive may hold several of one device: the one that was released last counts. */
const newestOf = (good: readonly Good[]): Good[] => {
  const byDevice = new Map<string, Good>()
  for (const one of good) {
    const key = `${one.description.vendorId}/${one.description.deviceId}`
    const known = byDevice.get(key)
    if (!known || known.description.released <= one.description.released) byDevice.set(key, one)
  }
  return [...byDevice.values()]
}

const put = async (editor: Editor, description: CataloguedDescription) => {
  const { vendorId, deviceId, name } = description
  const before = await editor.db
    .selectFrom('deviceDescription')
    .selectAll()
    .where('vendorId', '=', vendorId)
    .where('deviceId', '=', deviceId)
    .executeTakeFirst()
  if (before) {
    await editor.update('deviceDescription', before as never, description)
    return { id: before.id, name, was: before.version || 'another' }
  }
  const [made] = await editor.insert('deviceDescription', [description])
  return { id: made!.id, name, was: '' }
}
