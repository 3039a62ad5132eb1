import { readDescription } from '#core/iolink/description/read'
import type { Item } from '#core/iolink/description/description'
import { bytesOf, imageReader, type Raw } from '#core/iolink/image'
import { surface } from '../../standins/iolink/descriptions/devices'
import { tension } from '../../standins/iolink/descriptions/tension'

/** Process images, decoded by the description of their device. */

const rounds = 1_000_000
const runs = 5

/** As a script does it: the image as one number, shifted and masked by what the description says of each value. */
const plainOf =
  (items: readonly Item[]) =>
  (image: Uint8Array, into: Raw[]): void => {
    let whole = 0n
    for (const byte of image) whole = (whole << 8n) | BigInt(byte)
    items.forEach(({ bitOffset, type }, i) => {
      const bits = (whole >> BigInt(bitOffset)) & ((1n << BigInt(type.bits)) - 1n)
      into[i] = type.kind === 'bool' ? bits === 1n : Number(type.kind === 'int' ? BigInt.asIntN(type.bits, bits) : bits)
    })
  }

/** The same with numbers, which goes as far as 32 bits. */
const numbersOf =
  (items: readonly Item[]) =>
  (image: Uint8Array, into: Raw[]): void => {
    const view = new DataView(image.buffer, image.byteOffset, image.byteLength)
    const whole = view.getUint32(0)
    items.forEach(({ bitOffset, type }, i) => {
      const bits = (whole >>> bitOffset) & (type.bits === 32 ? 0xffffffff : 2 ** type.bits - 1)
      into[i] = type.kind === 'bool' ? bits === 1 : type.kind === 'int' && bits >= 2 ** (type.bits - 1) ? bits - 2 ** type.bits : bits
    })
  }

const imagesOf = (bytes: number) => {
  let seed = 7
  return Array.from({ length: 256 }, () => Uint8Array.from({ length: bytes }, () => (seed = (seed * 48_271) % 2_147_483_647) & 0xff))
}

/** The middle of some runs, images per second. */
const rateOf = (decode: (image: Uint8Array, into: Raw[]) => void, images: readonly Uint8Array[]) => {
  const into: Raw[] = []
  const found = Array.from({ length: runs }, () => {
    const began = performance.now()
    for (let i = 0; i < rounds; i++) decode(images[i & 255]!, into)
    return rounds / ((performance.now() - began) / 1000)
  })
  return found.sort((a, b) => a - b)[runs >> 1]!
}

const measured = [tension, surface].map((document) => {
  const read = readDescription(document)
  const record = read.ok ? read.description.processData[0]!.in! : null
  if (!read.ok || !record) throw new Error('it cannot be read')
  const images = imagesOf(bytesOf(record))
  const [one, other, third]: Raw[][] = [[], [], []]
  imageReader(record)(images[3]!, one!)
  plainOf(record.items)(images[3]!, other!)
  numbersOf(record.items)(images[3]!, third!)
  if (String(one) !== String(other) || String(one) !== String(third)) throw new Error('they are not of one mind')
  return {
    text: `${read.description.named}, ${record.items.length} values`,
    ours: rateOf(imageReader(record), images),
    plain: rateOf(plainOf(record.items), images),
    numbers: rateOf(numbersOf(record.items), images),
  }
})
console.log(JSON.stringify({ measured }))
