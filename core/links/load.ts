import type { PointDefinition } from './protocol'

/** What reading its tags asks of a link, worked out before it is done. */
export interface LinkLoad {
  parts: PartLoad[]
  /** Share of the time in which the busiest connection is at work; null: not known before something was measured. */
  busy: number | null
  /** The tags that cost most, by themselves. */
  costly: CostlyTag[]
  /** What is asked or listened to where there are no requests to count, as in “topic”; absent: nodes are watched. */
  of?: string
}

/** One part of the far side that is asked by itself, such as a unit. */
export interface PartLoad {
  /** Null: the link has no parts. */
  unit: string | null
  rounds: RoundLoad[]
  /** Share of the time in which it answers us. */
  busy: number | null
  /** What one round of all its tags takes, ms: no shorter interval can be kept for all of them. */
  fastest: number | null
}

export interface RoundLoad {
  interval: number
  tags: number
  /** 0: values are not fetched by requests. */
  requests: number
  /** Elements that cross the line, and how many of them somebody wants. */
  carried: number
  wanted: number
  /** What a round takes, ms. */
  ms: number | null
}

export interface CostlyTag {
  id: number | null
  path: string
  /** Milliseconds of the line in each second. */
  cost: number
  interval: number
  /** Tags that share its request. */
  sharedWith: number
}

export interface LoadPoint extends PointDefinition {
  id: number | null
  path: string
}

/** What was seen of a part while it was asked. */
export interface PartExperience {
  /** How long it takes for an answer, ms; null: never measured. */
  answerMs: number | null
  /** Elements that it was seen not to be read across, by the protocol’s own groups. */
  fences: Record<string, number[]>
}
export type Experience = (unit: string | null) => PartExperience | null

/** The share of the busiest of so many connections, over which parts are spread as well as can be. */
export const busiest = (parts: readonly (number | null)[], connections: number): number | null => {
  if (parts.includes(null)) return null
  const lanes = Array.from({ length: Math.max(1, Math.min(connections, parts.length)) }, () => 0)
  for (const share of [...(parts as number[])].sort((a, b) => b - a)) lanes[lanes.indexOf(Math.min(...lanes))]! += share
  return Math.max(0, ...lanes)
}
