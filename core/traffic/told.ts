/** What a frame is, in a line; and what its bytes mean, one by one. */

export interface Told {
  /** As in “read holding/40 … 47 of unit 11”. */
  summary: string
  /** A request waits for an answer; a notice for none; a piece is a part of something, or nothing that is known. */
  role: 'request' | 'answer' | 'notice' | 'piece'
  /** What request and answer have in common within a connection; null: they cannot be told apart by it. */
  key: string | null
  /** The part of the far side, or the topic. */
  about: string
  /** The function or service. */
  call: string
  outcome: 'fine' | 'refused' | 'odd'
  /** A request that is answered when something happens. */
  isPatient?: true
}

export interface FrameField {
  name: string
  /** Where it lies in the frame, bytes. */
  at: number
  length: number
  means: string
  /** It says that something failed, or cannot be so. */
  isWrong?: true
}

/** What is known of a connection from what passed on it before. */
export interface Memory {
  /** The version of MQTT that the client asked for. */
  level?: number
  /** Which database is spoken to. */
  dialect?: 'postgres' | 'mysql'
}

export interface Wanted {
  /** False: only what it is, which is quicker. */
  fields?: boolean
  /** The frame goes on; the rest of it was not kept. */
  isCut?: boolean
}

/**
 * Reads frames of one protocol. It never throws, whatever the bytes are: where they end too early or are not of this
 * protocol, it says so.
 * @param fromClient whether it goes from whoever asks to whoever answers
 */
export type FrameDecoder = (
  bytes: Uint8Array,
  fromClient: boolean,
  memory?: Memory,
  wanted?: Wanted,
) => { told: Told; fields: FrameField[] }
