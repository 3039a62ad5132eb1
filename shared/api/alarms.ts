import { z } from 'zod'
import { idField, lineField, numberText } from '#core/contracts/fields'
import { acknowledged, alarm, alarmEvent, alarmsMatching } from '../alarms'
import { before, listQuery, listWhole, logPageOf, pageOf } from './lists'
import { operation } from './operation'

const group = 'Alarms'
const keyField = z.string().min(1, 'Which alarm.').max(100)
const commentField = lineField('A comment', 500)

export const listAlarms = operation('GET /alarms', {
  group,
  needs: 'look',
  does: 'Limits that are crossed, and those that were and nobody acknowledged yet, the worst and newest first.',
  query: listQuery(['rank', 'path', 'since'], listWhole),
  answer: pageOf(alarm),
  engine: true,
})

export const acknowledgeAlarms = operation('POST /alarms/acknowledge', {
  group,
  needs: 'operate',
  does: 'Says that alarms were seen. Those that were acknowledged before, or are none any more, stay as they are.',
  body: z
    .object({
      keys: z.array(keyField).min(1, 'Which alarms.').max(20_000).optional(),
      matching: alarmsMatching.optional().describe('Instead of keys.'),
      comment: commentField.default(''),
    })
    .refine(({ keys, matching }) => (keys === undefined) !== (matching === undefined), {
      message: 'Either keys, or what they match.',
      path: ['keys'],
    }),
  example: { keys: ['17/high'], comment: 'Pump 2 takes over' },
  answer: acknowledged,
  engine: true,
})

export const commentAlarm = operation('POST /alarms/comment', {
  group,
  needs: 'operate',
  does: 'Says something of an alarm; it takes the place of what was said before.',
  body: z.object({ key: keyField, comment: commentField.min(1, 'What is to be said.') }),
  example: { key: '17/high', comment: 'Valve is being changed' },
  answer: z.object({ commented: z.boolean().describe('Whether there is such an alarm.') }),
  engine: true,
})

export const listAlarmEvents = operation('GET /alarms/events', {
  group,
  needs: 'look',
  does: 'What became of alarms, the newest first.',
  query: {
    ...listQuery(['-id', 'path', 'who']),
    before,
    tag: numberText(1).pipe(idField('A tag')).optional().describe('Only of this tag.'),
  },
  answer: logPageOf(alarmEvent),
})
