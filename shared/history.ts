import { z } from 'zod'
import { momentField, savedShape } from '#core/contracts/fields'
import { recordingContract } from '#core/history/settings'
import { flow } from './flow'

/** What is recorded, and how that goes. */

export const savedRecording = recordingContract
  .extend(savedShape)
  .meta({ id: 'Recording', description: 'Which tags are recorded, and how.' })
export type Recording = z.output<typeof savedRecording>

export const recordingChange = z.object({ revision: z.int(), recording: recordingContract })

export const historyStatus = z
  .object({
    flow,
    sentence: z.string().describe('What is happening, for a person.'),
    tags: z.int().describe('That are recorded now.'),
    perSecond: z.number().describe('Samples.'),
    waiting: z.int().describe('Samples that are not in the database yet.'),
    waitingBytes: z.int(),
    oldestAt: momentField.nullable().describe('When the oldest of those came.'),
    lost: z.int().describe('Samples since the start for which there was no room, or no time.'),
    doubtful: z.int().describe('Samples since the start whose own time cannot be; they have that of their arrival.'),
  })
  .meta({ id: 'HistoryStatus', description: 'How recording goes.' })
export type HistoryStatus = z.output<typeof historyStatus>
