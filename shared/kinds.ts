import { z } from 'zod'

/**
 * A contract for things whose settings depend on their kind: one contract per kind, told apart by it.
 *
 * @example
 * ofKind({ name: nameField('lamp') }, { bulb: bulbSettings, tube: tubeSettings }) // { name, kind, settings }
 */
export const ofKind = <Shape extends z.ZodRawShape, K extends string, S>(
  shape: Shape,
  contracts: Record<K, z.ZodType<S>>,
): z.ZodType<z.output<z.ZodObject<Shape>> & { kind: K; settings: S }> => {
  const kinds = Object.keys(contracts) as K[]
  const options = kinds.map((kind) => z.object({ ...shape, kind: z.literal(kind), settings: contracts[kind].prefault({} as never) }))
  // TypeScript sees the union of all kinds; to the rest of the program kind and settings are what they are
  return z.discriminatedUnion('kind', options as never, { error: `A kind is ${kinds.join(' or ')}.` }) as never
}
