/** Who a device is (MODBUS Application Protocol V1.1b3, 6.21: function 43, MEI type 14). */
export const identifies = 0x2b
const meiType = 0x0e

/** Objects of the first two categories, by their ids, in order: vendor, product code, revision; address, product, model, application. */
export interface Identity {
  vendor: string
  productCode: string
  revision: string
  product: string
  application: string
}

const [basic, regular, extended, individual] = [1, 2, 3, 4]
/** Regular identification, as a stream and one by one. */
const conformity = 0x82
const mostPdu = 253
const headBytes = 7

export type Identified = { ok: true; pdu: Buffer } | { ok: false; exception: number; problem: string }

/** Answers a request for it; what does not fit into one reply goes on with the next, from the object that is named there. */
export const identify = (pdu: Buffer, identity: Identity): Identified => {
  const [, mei, code, first] = pdu
  if (mei !== meiType) return { ok: false, exception: 1, problem: `asked function 43 with type ${mei ?? '(none)'}` }
  if (pdu.length !== 4 || code === undefined || first === undefined)
    return { ok: false, exception: 3, problem: 'asked who this is, in part' }
  const objects = objectsOf(identity)
  if (code === individual) {
    const object = objects.find(([id]) => id === first)
    return object ? reply(code, [object], false, 0) : { ok: false, exception: 2, problem: `asked for object ${first} of who this is` }
  }
  if (![basic, regular, extended].includes(code)) return { ok: false, exception: 3, problem: `asked who this is by code ${code}` }
  const wanted = objects.filter(([id]) => (code === basic ? id <= 2 : true))
  // an object that is not there begins anew (6.21)
  const from = Math.max(
    0,
    wanted.findIndex(([id]) => id === first),
  )
  const fitting = fittingOf(wanted.slice(from))
  const next = wanted[from + fitting.length]
  return reply(code, fitting, next !== undefined, next?.[0] ?? 0)
}

type Object = [id: number, value: Buffer]

const objectsOf = ({ vendor, productCode, revision, product, application }: Identity): Object[] =>
  (
    [
      [0, vendor],
      [1, productCode],
      [2, revision],
      [4, product],
      [6, application],
    ] as const
  ).map(([id, text]) => [id, Buffer.from(text, 'utf8').subarray(0, mostPdu - headBytes - 2)])

const fittingOf = (objects: readonly Object[]): Object[] => {
  let room = mostPdu - headBytes
  const fitting: Object[] = []
  for (const object of objects) {
    room -= 2 + object[1].length
    if (room < 0) break
    fitting.push(object)
  }
  return fitting
}

const reply = (code: number, objects: readonly Object[], isMore: boolean, next: number): Identified => {
  const head = Buffer.of(identifies, meiType, code, conformity, isMore ? 0xff : 0, next, objects.length)
  return { ok: true, pdu: Buffer.concat([head, ...objects.flatMap(([id, value]) => [Buffer.of(id, value.length), value])]) }
}
