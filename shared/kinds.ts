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
    const inside = contractFor(input, contracts)?.safeParse(settingsIn(input)) ?? null
    for (const { message, path } of issuesOf(outside)) context.addIssue({ code: 'custom', message, path })
    for (const { message, path } of issuesOf(inside)) context.addIssue({ code: 'custom', message, path: ['settings', ...path] })
    if (!outside.success || !inside?.success) return z.NEVER
    return { ...outside.data, settings: inside.data }
  })

const contractFor = <K extends string, S>(input: unknown, contracts: Record<K, z.ZodType<S>>): z.ZodType<S> | null => {
  const kind = (input as { kind?: unknown } | null | undefined)?.kind
  return typeof kind === 'string' && Object.hasOwn(contracts, kind) ? contracts[kind as K] : null
}

const settingsIn = (input: unknown) => (input as { settings?: unknown } | null | undefined)?.settings ?? {}
const issuesOf = (result: z.ZodSafeParseResult<unknown> | null) => result?.error?.issues ?? []
