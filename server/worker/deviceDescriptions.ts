import { Unzip, UnzipInflate, UnzipPassThrough } from 'fflate'
import { readDescription } from '#core/iolink/description/read'
import { cataloguedFrom, mostDocument, type CataloguedDescription } from '#core/iolink/description/catalogued'

/** What a file, or a file of an archive, was read as. */
export type DescriptionOfFile =
  { ok: true; file: string; description: CataloguedDescription } | { ok: false; file: string; line: number; problem: string }

const mostFiles = 500
/** All that is unpacked of one archive, bytes; what unpacks to more is given up while it is being unpacked. */
const mostUnpacked = 64 * 1024 * 1024
/** So much is given to the unpacking at a time: what it can swell to stays small. */
const partBytes = 16 * 1024

/** Reads descriptions out of a file of a maker: XML, or an archive of it with texts in further languages beside. */
export const descriptionsIn = (name: string, bytes: Uint8Array, language: string): DescriptionOfFile[] => {
  const isArchive = bytes[0] === 0x50 && bytes[1] === 0x4b
  const files = isArchive ? unpacked(bytes) : { ok: true as const, files: [{ file: name, bytes }] }
  if (!files.ok) return [{ ok: false, file: name, line: 0, problem: files.problem }]
  const documents = files.files.map(({ file, bytes: own }) => ({ file, text: textOf(own) }))
  const further = documents.filter(({ text }) => isFurther(text))
  const found = documents
    .filter(({ text }) => !isFurther(text))
    .map(({ file, text }) => described(file, withLanguages(file, text, further), language))
  if (found.length > 0) return found
  return [{ ok: false, file: name, line: 0, problem: 'the archive holds no XML file that describes a device' }]
}

const described = (file: string, document: string, language: string): DescriptionOfFile => {
  if (document.length > mostDocument)
    return { ok: false, file, line: 0, problem: `it is longer than ${mostDocument.toLocaleString('en-GB')} characters` }
  const read = readDescription(document, language)
  return read.ok
    ? { ok: true, file, description: cataloguedFrom(read.description, document) }
    : { ok: false, file, line: read.line, problem: read.problem }
}

type Unpacked = { ok: true; files: { file: string; bytes: Uint8Array }[] } | { ok: false; problem: string }

class GivenUp extends Error {}

/** Unpacks the XML files of an archive, part by part. */
const unpacked = (archive: Uint8Array): Unpacked => {
  const files: { file: string; bytes: Uint8Array }[] = []
  let size = 0
  const unzip = new Unzip((entry) => {
    if (!/\.xml$/i.test(entry.name) || /(^|\/)(\.|__MACOSX)/.test(entry.name)) return
    if (files.length >= mostFiles) throw new GivenUp(`it holds more than ${mostFiles} files`)
    const parts: Uint8Array[] = []
    entry.ondata = (error, part, isLast) => {
      if (error instanceof GivenUp) throw error
      if (error) throw new GivenUp(`“${entry.name}” in it cannot be unpacked: ${error.message}`)
      size += part.length
      if (size > mostUnpacked) throw new GivenUp(`it unpacks to more than ${mostUnpacked / 1024 / 1024} MB`)
      parts.push(part)
      if (isLast) files.push({ file: entry.name, bytes: Buffer.concat(parts) })
    }
    entry.start()
  })
  unzip.register(UnzipInflate)
  unzip.register(UnzipPassThrough)
  try {
    for (let at = 0; at < archive.length; at += partBytes)
      unzip.push(archive.subarray(at, at + partBytes), at + partBytes >= archive.length)
    return { ok: true, files }
  } catch (error) {
    return { ok: false, problem: error instanceof GivenUp ? error.message : `the archive cannot be read: ${(error as Error).message}` }
  }
}

const textOf = (bytes: Uint8Array) => new TextDecoder('utf-8').decode(bytes)

/** Texts of a description in one more language stand in a file of their own (IO Device Description, 6.2). */
const isFurther = (text: string) => /<ExternalTextDocument[\s>]/.test(text.slice(0, 4000))

/** Puts the texts of the files that belong to a document into it; such a file is called as the document is, with its language. */
const withLanguages = (file: string, text: string, further: readonly { file: string; text: string }[]): string => {
  const stem = file.replace(/\.xml$/i, '')
  const own = further.filter((one) => one.file.startsWith(`${stem}-`))
  const languages = own.flatMap((one) => /<Language[\s\S]*<\/Language>/.exec(one.text)?.[0] ?? [])
  return languages.length === 0 ? text : text.replace(/<\/ExternalTextCollection>/, () => `${languages.join('')}</ExternalTextCollection>`)
}
