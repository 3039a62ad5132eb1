/** An object within its device (12, 20.2.14): 10 bits of type, 22 of instance. */
export interface ObjectId {
  type: number
  instance: number
}

export const mostInstance = 0x3fffff - 1
/** Stands for whichever device is asked (12.11). */
export const anyInstance = 0x3fffff

export const objectIdOf = (packed: number): ObjectId => ({ type: packed >>> 22, instance: packed & 0x3fffff })
export const packedId = ({ type, instance }: ObjectId): number => ((type << 22) | instance) >>> 0

export const objectIdBytes = (id: ObjectId): Buffer => {
  const bytes = Buffer.alloc(4)
  bytes.writeUInt32BE(packedId(id))
  return bytes
}
