import { useEffect } from 'react'
import { useGo } from './address.ts'
import { openAnyFile, openInFeed } from './open-any-file.ts'

async function openDropped(files: File[], go: (path: string) => void): Promise<void> {
  if (files.length > 1 && files.every(({ type }) => /^(image|video)\//.test(type))) {
    go('/feed')
    await openInFeed(files)
  } else await openAnyFile(files[0]!, go)
}

/** Files that are dropped anywhere are opened; a view with its own use for them takes them first. */
export default function DroppedFiles(): null {
  const go = useGo()
  useEffect(() => {
    const onDragOver = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes('Files')) event.preventDefault()
    }
    const onDrop = (event: DragEvent) => {
      const files = [...(event.dataTransfer?.files ?? [])]
      if (event.defaultPrevented || files.length === 0) return
      event.preventDefault()
      void openDropped(files, go)
    }
    window.addEventListener('dragover', onDragOver)
    window.addEventListener('drop', onDrop)
    return () => {
      window.removeEventListener('dragover', onDragOver)
      window.removeEventListener('drop', onDrop)
    }
  }, [go])
  return null
}
