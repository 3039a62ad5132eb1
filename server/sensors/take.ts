import { fault } from '#core/faults/catalogue'
import type { OfferedPoint } from '#core/iolink/offered'
import { ioLinkSettings, type ExpectedDevice } from '#core/iolink/settings'
import { pathFrom } from '#core/tags/naming'
import { pathProblem } from '#core/tags/path'
import { namesFor } from '#core/tags/valueNames'
import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import type { SensorOffer } from '#shared/links/sensorPorts'
import { pointTag, type TagDraft } from '#shared/tags'
import { invalid } from '../answers/checked'
import { Refusal } from '../answers/refusal'
import { lockedRow, namesTaken } from '../store/configuration'
import { database } from '../store/database'
import { settleTags } from '../tags/tags'

/** Lets a device belong at its port, and makes tags of its process data; in one change. @param folder null: no tags are made */
export const takeOffered = async (linkId: number, { device, points }: SensorOffer, folder: string | null, who: string) => {
  const wanted = folder === null ? [] : points.filter(({ room }) => room === 'in' || room === 'out')
  const drafts = wanted.map((point) => draftOf(linkId, point, folder!))
  const change = changeConfiguration(database(), who, `Took ${device.named} at port ${device.port}`, async (editor) => {
    const link = await lockedRow(editor, 'link', linkId)
    const { kind, name, settings } = thingOf('link', link)
    if (kind !== 'iolink') throw new Refusal(fault('link.no-ports', { name }))
    editor.what = `Took ${device.named} at port ${device.port} of “${name}”`
    await editor.update('link', link, { settings: withDevice(settings, device) })
    const ready = await settleTags(editor.db, drafts, (index) => `tags.${index}.`)
    return ready.length === 0 ? [] : editor.insert('tag', ready)
  })
  const { result, revision } = await namesTaken('tag', drafts[0]?.path ?? '', 'folder', change)
  return { made: result.map(({ path }) => path), revision }
}

const withDevice = (settings: unknown, device: ExpectedDevice) => {
  const read = ioLinkSettings.parse(settings)
  return { ...read, ports: [...read.ports.filter(({ port }) => port !== device.port), device].sort((a, b) => a.port - b.port) }
}

const draftOf = (linkId: number, point: OfferedPoint, folder: string): TagDraft => {
  const path = pathFrom(folder, [point.name], 0, 'lower')
  const problem = pathProblem(path)
  if (problem) throw invalid([{ path: 'folder', message: problem }])
  const { address, type, options, access, scaling, unit, range, about, names } = point
  return pointTag({
    path,
    linkId,
    address,
    type,
    options,
    access,
    scaling,
    unit: unit.slice(0, 40),
    range,
    names: namesFor(type, names),
    description: about.slice(0, 500),
  })
}
