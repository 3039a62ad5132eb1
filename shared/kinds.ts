import { z } from 'zod'

/**
 * A contract for things whose settings depend on their kind. Unlike a transform behind an object, it
 * tells everything at once: a missing name does not hide a wrong port.
 */
export const ofKind = <B extends { kind: K }, K extends string, S>(
  base: z.ZodType<B>,
  contracts: Record<K, z.ZodType<S>>,
): z.ZodType<Omit<B, 'settings'> & { settings: S }> =>
  z.unknown().transform((input, context) => {
    const outside = base.safeParse(input)
    const { kind, settings } = (input ?? {}) as { kind?: unknown; settings?: unknown }
    const contract = typeof kind === 'string' && Object.hasOwn(contracts, kind) ? contracts[kind as K] : null
    const inside = contract?.safeParse(settings ?? {}) ?? null
    for (const { message, path } of outside.error?.issues ?? []) context.addIssue({ code: 'custom', message, path })
    for (const { message, path } of inside?.error?.issues ?? []) context.addIssue({ code: 'custom', message, path: ['settings', ...path] })
    if (!outside.success || !inside?.success) return z.NEVER
    return { ...outside.data, settings: inside.data }
  })
