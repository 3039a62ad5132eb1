import type { Generated, JSONColumnType } from 'kysely'
import { recordingContract, type RecordingDraft } from '#core/history/settings'
import { subject } from './definition'

export interface RecordingTable {
  id: Generated<number>
  pattern: string
  how: JSONColumnType<RecordingDraft['how']>
  revision: number
}

export const recording = subject<RecordingTable>()({
  contract: recordingContract,
  nameOf: ({ pattern }) => pattern,
  text: { section: 'recordings', key: 'pattern' },
  needs: [],
})
