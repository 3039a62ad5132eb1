import { $RefParser } from '@apidevtools/json-schema-ref-parser'
import { readYaml } from '#core/formats/yaml/read'
import { readDescription, type ReadDescription } from '#core/http/described/description'

/** Documents by their addresses; the first is the description, the others are what it refers to. */
export type Documents = { address: string; text: string }[]

/** What is still to be fetched for it, or what it says. */
export type DescriptionRead = ReadDescription | { ok: false; wants: string[] }

/** An address for what was pasted; nothing can be found below it. */
export const pasted = 'https://pasted.invalid/'

/** Follows references into the documents that are there, and says which are wanted besides. Nothing is fetched here. */
export const describedBy = async (documents: Documents): Promise<DescriptionRead> => {
  const [{ address, text }] = documents as [Documents[number], ...Documents]
  const known = new Map(documents.map((one) => [one.address, one.text]))
  const wants = new Set<string>()
  try {
    const read = parsed(text)
    const whole = await $RefParser.dereference(
      address,
      read as never,
      {
        resolve: {
          ...{ file: false, http: false, external: true },
          fetched: {
            ...{ order: 1, canRead: true },
            read: ({ url }: { url: string }) => {
              const there = known.get(url)
              if (there === undefined) wants.add(url)
              return there ?? '{}'
            },
          },
        },
        parse: {
          ...{ json: false, yaml: false, text: false, binary: false },
          careful: { order: 1, canParse: true, parse: ({ data }: { data: unknown }) => parsed(String(data)) },
        },
        // what leads into itself does so once it is read, too
        dereference: { circular: true },
      } as never,
    )
    if (wants.size > 0) return { ok: false, wants: [...wants] }
    return readDescription(whole, address === pasted ? null : address)
  } catch (error) {
    if (wants.size > 0) return { ok: false, wants: [...wants] }
    return { ok: false, problem: (error as Error).message.split('\n')[0]!.replace(/\.$/, '') }
  }
}

const parsed = (text: string): unknown => {
  const trimmed = text.trimStart()
  if (trimmed.startsWith('{')) return JSON.parse(text)
  const read = readYaml(text)
  if (!read.ok) throw new Error(`line ${read.spot.line}: ${read.problem}`)
  if (typeof read.text.value !== 'object' || read.text.value === null) throw new Error('it is neither JSON nor YAML with anything in it')
  return read.text.value
}
