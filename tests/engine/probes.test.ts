import { createSocket } from 'node:dgram'
import { once } from 'node:events'
import { describe, expect, it } from 'vitest'
import { askDatagram } from '#engine/diagnosis/probes'

/** Measurements beside a path: each comes to an end, whatever happens meanwhile. */

describe('a question to a port without connections', () => {
  const listening = async (answers: boolean) => {
    const socket = createSocket('udp4')
    socket.on('message', (_, from) => answers && socket.send('here', from.port, from.address)).bind(0, '127.0.0.1')
    await once(socket, 'listening')
    return { port: socket.address().port, close: () => new Promise<void>((resolve) => socket.close(() => resolve())) }
  }

  it('tells an answer, silence, and a port that nobody has', async () => {
    const [talker, mute] = [await listening(true), await listening(false)]
    expect(await askDatagram('127.0.0.1', talker.port, '00', 2000)).toEqual({ outcome: 'answers' })
    expect(await askDatagram('127.0.0.1', mute.port, '00', 100)).toEqual({ outcome: 'silent' })
    await mute.close()
    expect(await askDatagram('127.0.0.1', mute.port, '00', 2000)).toEqual({ outcome: 'refused' })
    await talker.close()
  })

  it('is over once, however late the socket is ready, and whatever cannot be sent', async () => {
    // within no time at all either may be heard first: that nobody is there, or that time is over
    expect(['silent', 'refused']).toContain((await askDatagram('localhost', 9, '00', 0)).outcome)
    expect(await askDatagram('127.0.0.1', 9, '00'.repeat(70_000), 2000)).toMatchObject({ outcome: 'stopped', words: 'EMSGSIZE' })
    // what comes after the end would be an error that nobody takes
    await new Promise((resolve) => setTimeout(resolve, 100))
  })
})
