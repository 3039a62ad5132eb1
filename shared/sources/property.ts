import { z } from 'zod'
import { identityOf, madeOfContract, pathsIn, renamedMade } from '#core/equipment/made'
import { mostInteger, wholeNumber } from '#core/contracts/fields'
import type { SourceRules } from './source'

export const propertySource = z.object({
  kind: z.literal('property'),
  equipmentId: wholeNumber('Equipment', 1, mostInteger),
  property: z.string().max(60),
  made: madeOfContract,
})
export type PropertySource = z.output<typeof propertySource>

/** A property of a piece of equipment, which makes its tags by itself. */
export const property: SourceRules<PropertySource> = {
  contract: propertySource,
  title: 'Equipment',
  subtitle: 'a property of equipment',
  isMade: true,
  isScaled: false,
  isDamped: false,
  columns: [],
  blank: () => ({ kind: 'property', equipmentId: 0, property: '', made: { kind: 'constant', value: null } }),
  usualType: () => null,
  problems: ({ source }) =>
    source.equipmentId > 0 ? [] : [{ path: 'source.equipmentId', message: 'Equipment makes its tags by itself.' }],
  settled: (tag) => tag,
  paths: {
    of: ({ made }) => pathsIn(made),
    renamed: (source, nowCalled) => ({ ...source, made: renamedMade(source.made, nowCalled) }),
  },
  isSame: (a, b) => a.equipmentId === b.equipmentId && identityOf(a) === identityOf(b) && JSON.stringify(a.made) === JSON.stringify(b.made),
}
