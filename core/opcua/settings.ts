import type { Secret } from '../links/secret'

/** What an OPC UA link is set to. Times in milliseconds. Validated by `shared/links/opcua`. */
export const policies = ['None', 'Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'] as const
export type Policy = (typeof policies)[number]
export const modes = ['None', 'Sign', 'SignAndEncrypt'] as const
export type Mode = (typeof modes)[number]

export type Identity =
  | { kind: 'anonymous' }
  /** `inClear`: somebody decided that the password may travel readable, where the server offers no better. */
  | { kind: 'password'; user: string; password: Secret; inClear: boolean }
  | { kind: 'certificate'; certificate: string; key: Secret }

export interface OpcuaSettings {
  /** As typed: host, host:port, or the full address. */
  address: string
  policy: Policy
  mode: Mode
  identity: Identity
  reading: {
    /** How often the server tells what changed. */
    publishing: number
    /** How often it looks. 0: as fast as it can. */
    sampling: number
    /** Values that wait between two notifications; with 1 only the newest is told. */
    queue: number
    /** Where notifications stay out although reads work: read instead. */
    readInstead: boolean
  }
  patience: { connect: number; answer: number; retryFirst: number; retryMost: number; session: number }
  writes: {
    keep: 'all' | 'latest'
    /** So long a write may wait; what was not sent by then is not sent at all. */
    within: number
  }
}

export interface OpcuaPointOptions {
  /** The way into a structure or an array, as `core/opcua/member` reads it. */
  member?: string
  /** Changes smaller than this stay at the source (OPC 10000-4, 7.22.2). */
  deadband?: { kind: 'absolute' | 'percent'; value: number }
}

export const modeText: Record<Mode, string> = { None: 'neither signed nor encrypted', Sign: 'Sign', SignAndEncrypt: 'Sign & encrypt' }
