import type { DataType } from '../tags/types'

/**
 * What the screens, the API and the checks need to know about a protocol's addresses, without a
 * connection. One implementation per protocol, listed in `registry.ts`.
 */
export interface Protocol {
  kind: string
  /** The name of the standard. */
  title: string
  /** One line under the title where a person chooses. */
  subtitle: string
  capabilities: Capabilities
  /** Reads an address as a person types it. */
  describe(text: string, settings: unknown): AddressFacts
  /** Everything wrong with one point; empty when it can be polled. */
  problems(point: PointDefinition, settings: unknown): FieldProblem[]
  /** Notes that arise between points of one link, such as overlaps. Keyed by the point's id. */
  notes(points: readonly (PointDefinition & { id: number; path: string })[], settings: unknown): Map<number, string>
  /** The same point one width further, for making a series of tags. */
  next(point: PointDefinition): string
}

export interface Capabilities {
  browse: boolean
  read: boolean
  watch: boolean
  write: boolean
  publish: boolean
  tap: boolean
}

export interface PointDefinition {
  address: string
  type: DataType
  options: PointOptions
  access: 'read' | 'readwrite'
  /** Milliseconds; null or absent: as the link has it. */
  interval?: number | null
}

/** How a point is laid out, where the protocol leaves it open. Absent means: as the link has it. */
export interface PointOptions {
  order?: 'ABCD' | 'CDAB' | 'BADC' | 'DCBA'
  /** Bytes of a string. */
  length?: number
}

export interface FieldProblem {
  field: 'address' | 'type' | 'order' | 'length' | 'access' | 'interval'
  message: string
}

export type AddressFacts =
  | {
      ok: true
      /** The notation that is stored. */
      canonical: string
      /** The same point in every notation of the trade. */
      notations: { label: string; text: string }[]
      note: string | null
      types: readonly DataType[]
      defaultType: DataType
      writable: boolean
    }
  | { ok: false; problem: string }
