import { open, readFile, rename, type FileHandle } from 'node:fs/promises'
import { dirname } from 'node:path'
import { parted } from '#core/lists/parted'
import { nextTurn } from '#pacing/turns'

const linesAtOnce = 500
const endBytes = 64 * 1024

/**
 * A file of JSON lines that survives whoever writes it: what was added is on the disk before it is believed,
 * and what takes the place of everything does so at once.
 */
export class LineFile {
  private handle: FileHandle | null = null
  private held = 0

  constructor(private path: string) {}

  /** Lines in it, as far as they were written here; null: it has to be replaced before anything is added. */
  get lines(): number | null {
    return this.handle && this.held
  }

  async add(lines: readonly unknown[]) {
    if (!this.handle) throw new Error('the file is not open')
    await append(this.handle, lines)
    await this.handle.datasync()
    this.held += lines.length
  }

  /** Aside, onto the disk, and only then in the place of the one before. */
  async replace(lines: readonly unknown[]) {
    await this.close()
    const aside = `${this.path}.new`
    const handle = await open(aside, 'w', 0o600)
    try {
      await append(handle, lines)
      await handle.sync()
      await rename(aside, this.path)
      await syncFolder(dirname(this.path))
      this.held = lines.length
      this.handle = handle
    } catch (error) {
      await handle.close().catch(() => {})
      throw error
    }
  }

  /** Every line; null in the place of one that was cut off or is none. Null: there is no file. */
  async read(): Promise<(object | null)[] | null> {
    const text = await readFile(this.path, 'utf8').catch(() => null)
    return text?.split('\n').map(parsed) ?? null
  }

  /** The last lines of it, as many as are read at once; the first of them may be cut off, and is null then. Null: there is no file. */
  async end(): Promise<(object | null)[] | null> {
    const handle = await open(this.path, 'r').catch(() => null)
    if (!handle) return null
    try {
      const { size } = await handle.stat()
      const bytes = Buffer.alloc(Math.min(size, endBytes))
      await handle.read(bytes, 0, bytes.length, size - bytes.length)
      return bytes.toString('utf8').split('\n').map(parsed)
    } finally {
      await handle.close()
    }
  }

  async close() {
    await this.handle?.close().catch(() => {})
    this.handle = null
  }
}

const append = async (handle: FileHandle, lines: readonly unknown[]) => {
  for (const part of parted(lines, linesAtOnce)) {
    await handle.appendFile(part.map((line) => `${JSON.stringify(line)}\n`).join(''))
    await nextTurn()
  }
}

/** A new name is safe only once the folder that holds it is. */
const syncFolder = async (folder: string) => {
  const handle = await open(folder, 'r')
  await handle.sync().finally(() => handle.close())
}

const parsed = (text: string): object | null => {
  try {
    const line: unknown = JSON.parse(text)
    return typeof line === 'object' ? line : null
  } catch {
    return null
  }
}
