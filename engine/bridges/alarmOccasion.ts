import { nothingBut, type Occasion } from '#core/bridges/run'
import { Payload } from '#core/messages/payload'
import type { AlarmEvent } from '#shared/alarms'

/** What became of an alarm, as a message would come. */
export const alarmOccasion = ({ key: _key, ...event }: AlarmEvent, trigger: number): Occasion => {
  const { path, at } = event
  const payload = new Payload(new TextEncoder().encode(JSON.stringify({ ...event, at: new Date(at).toISOString() })))
  return { ...nothingBut('clock', trigger, at), by: 'message', path, topic: path, payload }
}
