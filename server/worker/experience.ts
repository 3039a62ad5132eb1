import type { PartExperience } from '#core/links/load'
import { engineClient } from '../runtime/engineClient'

const withinMs = 2000

/** What was seen of each part of a link while it was asked; nothing while the engine is away. */
export const experienceOf = (linkId: number): Promise<Record<string, PartExperience>> =>
  engineClient.call((engine) => engine.experience(linkId), withinMs).catch(() => ({}))
