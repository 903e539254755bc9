/** Offers a text to be saved as a file. */
export const saveFile = (name: string, type: string, text: string) => saveBlob(name, new Blob([text], { type }))

export function saveBlob(name: string, body: Blob): void {
  const url = URL.createObjectURL(body)
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 10_000)
}
