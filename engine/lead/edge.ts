import { Socket as DatagramSocket } from 'node:dgram'
import { Socket } from 'node:net'

/**
 * The edge of the process. A machine that stopped leading must not say one more word to a device: not when its timers ran late, and
 * not when the whole process stood still and goes on with what it was about to do. So it is asked at the last place before the
 * system, in every socket of the process, whatever package uses it.
 */

type Write = (...args: unknown[]) => void

let mayLeave: () => boolean = () => true
let isGuarded = false
const written = new Set<Socket>()

/** From now on bytes leave only while this is true; whoever writes at another time loses its connection. */
export const guardEdge = (isOpen: () => boolean) => {
  mayLeave = isOpen
  if (isGuarded) return
  isGuarded = true
  const sockets = Socket.prototype as unknown as Record<'_write' | '_writev', Write>
  for (const name of ['_write', '_writev'] as const) {
    const plain = sockets[name]
    sockets[name] = function (this: Socket, ...args: unknown[]) {
      if (!mayLeave()) return refuse(this, args.at(-1) as (error: Error) => void)
      remember(this)
      plain.apply(this, args)
    }
  }
  const datagrams = DatagramSocket.prototype as unknown as { send: Write }
  const plainSend = datagrams.send
  datagrams.send = function (this: DatagramSocket, ...args: unknown[]) {
    if (mayLeave()) return plainSend.apply(this, args)
    const done = args.at(-1)
    if (typeof done === 'function') setImmediate(done as (error: Error) => void, new Error(leadsNoMore))
  }
}

/** Whether bytes may leave now. For what is no socket: serial ports. */
export const edgeIsOpen = () => mayLeave()

/** Takes back what the system did not send yet: connections end at once, and nothing of them is sent later. */
export const cutEdge = () => {
  mayLeave = () => false
  for (const socket of written) cut(socket)
  written.clear()
}

const leadsNoMore = 'this machine does not lead its site any more'

const refuse = (socket: Socket, done: (error: Error) => void) => {
  cut(socket)
  done(new Error(leadsNoMore))
}

const cut = (socket: Socket) => {
  try {
    socket.resetAndDestroy()
  } catch {
    socket.destroy()
  }
}

const remember = (socket: Socket) => {
  if (written.has(socket)) return
  written.add(socket)
  socket.once('close', () => written.delete(socket))
}
