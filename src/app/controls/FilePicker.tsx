import type { Ref } from 'react'

interface FilePickerProps {
  ref: Ref<HTMLInputElement>
  label: string
  accept?: string
  multiple?: boolean
  onFiles: (files: File[]) => void
}

/** The browser's own dialog for files, behind a control that clicks it; the same file can be picked twice. */
export function FilePicker({ ref, label, accept, multiple, onFiles }: FilePickerProps) {
  return (
    <input
      ref={ref}
      type="file"
      accept={accept}
      multiple={multiple}
      hidden
      aria-label={label}
      onChange={(event) => {
        const files = [...(event.target.files ?? [])]
        event.target.value = ''
        if (files.length > 0) onFiles(files)
      }}
    />
  )
}
