import { AttributeIds, BrowseDirection } from 'node-opcua'
import type { Services } from './services'

const hasProperty = 'i=46'
const nameOnly = 0b1000
const mostProperties = 1000

/** Some properties of nodes, by their names; of each node in its order, what it has of them. */
export const propertiesOf = async (
  services: Services,
  nodeIds: readonly string[],
  wanted: readonly string[],
): Promise<ReadonlyMap<string, unknown>[]> => {
  const found = nodeIds.map(() => new Map<string, unknown>())
  if (nodeIds.length === 0) return found
  const properties = await services.browse(
    nodeIds.map((nodeId) => ({
      nodeId,
      browseDirection: BrowseDirection.Forward,
      referenceTypeId: hasProperty,
      includeSubtypes: false,
      resultMask: nameOnly,
    })),
    mostProperties,
  )
  const asked = properties.flatMap(({ references }, of) =>
    references
      .filter(({ browseName }) => wanted.includes(browseName.name ?? ''))
      .map(({ nodeId, browseName }) => ({ nodeId, name: browseName.name!, of })),
  )
  if (asked.length === 0) return found
  const values = await services.read(asked.map(({ nodeId }) => ({ nodeId, attributeId: AttributeIds.Value })))
  for (const [i, { name, of }] of asked.entries()) {
    const value: unknown = values[i]!.value?.value
    if (value) found[of]!.set(name, value)
  }
  return found
}
