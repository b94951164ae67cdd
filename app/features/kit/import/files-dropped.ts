/** Files of a folder beyond which no more are looked at. */
const MOST_FILES = 2000

/** The files that were dropped, those in folders as well; each knows the way to it as `webkitRelativePath` does. */
export async function filesDropped(data: DataTransfer | null): Promise<File[]> {
  const entries = [...(data?.items ?? [])].flatMap(item => item.webkitGetAsEntry() ?? [])
  // Read before anything is waited for: afterwards the browser has let go of them.
  const plain = [...(data?.files ?? [])]
  if (!entries.some(entry => entry.isDirectory)) return plain
  const found: File[] = []
  const waiting = [...entries]
  for (let entry = waiting.pop(); entry && found.length < MOST_FILES; entry = waiting.pop()) {
    if (entry.isFile) found.push(await fileOf(entry as FileSystemFileEntry))
    else waiting.push(...(await childrenOf(entry as FileSystemDirectoryEntry)))
  }
  return found
}

async function fileOf(entry: FileSystemFileEntry): Promise<File> {
  const file = await new Promise<File>((resolve, reject) => entry.file(resolve, reject))
  Object.defineProperty(file, 'webkitRelativePath', { value: entry.fullPath.replace(/^\//, '') })
  return file
}

async function childrenOf(entry: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = entry.createReader()
  const found: FileSystemEntry[] = []
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (some.length === 0) return found
    found.push(...some)
  }
}
