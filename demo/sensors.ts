import { linkContract, type LinkDraft } from '#shared/links/link'
import type { CataloguedDescription } from '#core/iolink/description/catalogued'
import { cataloguedFrom } from '#core/iolink/description/catalogued'
import { offeredAt } from '#core/iolink/offered'
import { readDescription } from '#core/iolink/description/read'
import { pathFrom } from '#core/tags/naming'
import { pointTag, type TagDraft } from '#shared/tags'

export const sensorBase = (port: number) => `http://127.0.0.1:${port}/iolink/v1`

const read = (document: string) => {
  const found = readDescription(document)
  if (!found.ok) throw new Error(`line ${found.line}: ${found.problem}`)
  return found.description
}

/** The documents of the stand-ins’ sensors, in the order of their ports. */
export const descriptionsFrom = async (control: number): Promise<string[]> => {
  const response = await fetch(`http://127.0.0.1:${control}/api/sensors/descriptions`)
  return (await response.json()) as string[]
}

/** What the makers of the demo’s sensors say of them. */
export const sensorDescriptions = (documents: readonly string[]): CataloguedDescription[] =>
  documents.map((document) => cataloguedFrom(read(document), document))

/** The ports of the first cable arm: tension and angle are taken, the third sensor comes while the demo runs. */
export const sensorLink = (port: number): LinkDraft =>
  linkContract.parse({
    name: 'Arm sensors berth 1',
    kind: 'iolink',
    settings: {
      base: sensorBase(port),
      ports: [
        { port: 1, vendorId: 2641, deviceId: 1051, named: 'Cable tension sensor HT-40' },
        { port: 2, vendorId: 2641, deviceId: 1062, named: 'Arm angle sensor HA-360' },
      ],
    },
  })

/** @param documents the first two are of what is plugged in at ports 1 and 2 */
export const sensorTags = (linkId: number, documents: readonly string[]): TagDraft[] =>
  documents.slice(0, 2).flatMap((document, i) =>
    offeredAt(i + 1, read(document), null)
      .filter(({ room }) => room === 'in')
      .map(({ name, address, type, options, scaling, unit, range, about, names }) =>
        pointTag({
          path: pathFrom(`berth/1/arm/${i === 0 ? 'cable' : 'boom'}`, [name], 0, 'lower'),
          ...{ linkId, address, type, options, scaling, unit, range, names: [...names], description: about },
        }),
      ),
  )
