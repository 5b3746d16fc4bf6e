/** Endings that are worth sending; what a file is, its bytes decide. */
const ENDINGS = /\.(exr|png|tiff?|hdr|jpe?g)$/i

export const ACCEPTED = '.exr,.png,.tif,.tiff,.hdr,.jpg,.jpeg'

/** Files in one order on every machine, without what no render consists of. */
export const tidy = (files: Iterable<File>) =>
  [...files].filter((f) => ENDINGS.test(f.name)).sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))

async function entries(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader()
  const all: FileSystemEntry[] = []
  for (;;) {
    // A reader gives a hundred at a time, and none when it is done.
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (some.length === 0) return all
    all.push(...some)
  }
}

async function filesOf(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))]
  const inside = await entries(entry as FileSystemDirectoryEntry)
  return (await Promise.all(inside.map(filesOf))).flat()
}

/** What was dropped: files, and all files of folders. */
export async function dropped(data: DataTransfer): Promise<File[]> {
  const found = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null)
  if (found.length === 0) return tidy(data.files)
  return tidy((await Promise.all(found.map(filesOf))).flat())
}
