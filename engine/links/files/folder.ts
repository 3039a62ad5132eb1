import { constants, type Stats } from 'node:fs'
import { mkdir, open, realpath, stat, type FileHandle } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fault, isFault } from '#core/faults/catalogue'
import { wayProblem, type FilesSettings } from '#core/files/settings'
import type { FoundFile, LineBatch, LineFolder } from '../receiving'
import { bytesOf, filesIn, isWithin } from './reading'

/** Why the disk says no, in words. */
const problems: Record<string, string> = {
  ENOSPC: 'the disk is full',
  EDQUOT: 'the quota of the disk is used up',
  EACCES: 'the engine has no right to it',
  EPERM: 'the engine has no right to it',
  EROFS: 'the disk is read only',
  EBUSY: 'another program holds it locked',
  ENOENT: 'its folder is not there',
  EISDIR: 'it is a folder',
  ENOTDIR: 'a part of its path is a file',
  EEXIST: 'a part of its path is a file',
  EIO: 'the disk fails',
}

/** A folder below an allowed root, in which files are read and lines written. No path leaves the root, by links of the file system neither. */
export class Folder implements LineFolder {
  readonly takes = 'file'
  /** One writes at a time. */
  private work: Promise<unknown> = Promise.resolve()

  constructor(
    private settings: FilesSettings,
    private allowed: () => readonly string[],
  ) {}

  /** Where it is; makes it below its root where it is missing. Rejects with a fault. */
  async place(): Promise<string> {
    const roots = this.allowed()
    const root = this.settings.root === '' ? roots[0] : roots.find((allowed) => allowed === this.settings.root)
    if (root === undefined) throw fault('files.no-root', { root: this.settings.root, allowed: roots.join(', ') }) as unknown as Error
    return this.guarded(join(root, this.settings.folder), async () => {
      const real = await realpath(root)
      return this.made(real, join(real, this.settings.folder))
    })
  }

  append(batch: LineBatch): Promise<void> {
    const turn = this.work.then(() => this.appendNow(batch))
    this.work = turn.catch(() => {})
    return turn
  }

  async sizeOf(file: string): Promise<number> {
    const found = await this.statOf(join(await this.place(), file))
    return found?.size ?? 0
  }

  async list(pattern: string): Promise<FoundFile[]> {
    const place = await this.place()
    return this.guarded(place, () => filesIn(place, pattern), 'files.not-read')
  }

  async read(file: string, from: number, most: number): Promise<Uint8Array> {
    const place = await this.place()
    return this.guarded(join(place, file), () => bytesOf(place, file, from, most), 'files.not-read')
  }

  private async appendNow({ file, head, lines, from }: LineBatch): Promise<void> {
    const problem = wayProblem(file)
    if (problem) throw fault('files.not-written', { way: file, problem }) as unknown as Error
    const folder = await this.place()
    const path = join(folder, file)
    await this.guarded(path, async () => {
      await this.made(await realpath(folder), dirname(path))
      const handle = await open(path, constants.O_RDWR | constants.O_CREAT | constants.O_NOFOLLOW, 0o644)
      try {
        await write(handle, head, lines, from)
      } finally {
        await handle.close()
      }
    })
  }

  private async made(root: string, folder: string): Promise<string> {
    await mkdir(folder, { recursive: true })
    const real = await realpath(folder)
    if (!isWithin(real, root)) throw fault('files.leaves', { way: folder }) as unknown as Error
    return real
  }

  private async statOf(path: string): Promise<Stats | null> {
    return stat(path).catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT') return null
      throw missed(path, error)
    })
  }

  private async guarded<T>(
    path: string,
    work: () => Promise<T>,
    code: 'files.not-written' | 'files.not-read' = 'files.not-written',
  ): Promise<T> {
    try {
      return await work()
    } catch (error) {
      throw isFault(error) ? error : missed(path, error as NodeJS.ErrnoException, code)
    }
  }
}

const missed = (way: string, error: NodeJS.ErrnoException, code: 'files.not-written' | 'files.not-read' = 'files.not-written'): Error => {
  if (error.code === 'ELOOP') return fault('files.leaves', { way }) as unknown as Error
  return fault(code, { way, problem: (error.code && problems[error.code]) ?? error.message }, error.message) as unknown as Error
}

/** All of it or nothing: what could only be written in part is taken back. */
const write = async (handle: FileHandle, head: Uint8Array, lines: readonly Uint8Array[], from: number | undefined) => {
  const { size } = await handle.stat()
  const whole = Buffer.concat(size === 0 || from === 0 ? [head, ...lines] : lines)
  const there = from === undefined || size <= from ? 0 : await writtenBefore(handle, whole, from, size)
  const at = there > 0 ? from! + there : size
  try {
    let written = 0
    while (written < whole.length - there) {
      const { bytesWritten } = await handle.write(whole, there + written, whole.length - there - written, at + written)
      written += bytesWritten
    }
    await handle.datasync()
  } catch (error) {
    await handle.truncate(at).catch(() => {})
    throw error
  }
}

/** How much of it an attempt that was cut off had written already; 0 where something else stands there. */
const writtenBefore = async (handle: FileHandle, whole: Buffer, from: number, size: number): Promise<number> => {
  const there = Buffer.alloc(Math.min(size - from, whole.length))
  await handle.read(there, 0, there.length, from)
  return size - from <= whole.length && there.equals(whole.subarray(0, there.length)) ? there.length : 0
}
