import { currentProject, edit, notify } from '../../store/project-store.ts'

const mostBytes = 512_000
const types = /^image\/(png|jpeg|webp|gif|avif|svg\+xml)$/

/** Keeps a dropped picture in the project and makes it a stage's visual. */
export async function takePictureFile(file: File, visualPath: string): Promise<void> {
  if (!types.test(file.type))
    return notify(`${file.name} is ${file.type || 'of no known type'}; allowed: PNG, JPEG, WebP, GIF, AVIF, SVG.`)
  if (file.size > mostBytes)
    return notify(
      `${file.name} has ${Math.round(file.size / 1000)} kB; a picture kept in the project has at most ${mostBytes / 1000} kB.`,
    )
  const { assets } = currentProject()!.project
  const plain = file.name.replace(/\.[a-z]+$/i, '').slice(0, 60) || 'picture'
  let name = plain
  for (let n = 2; assets.some((asset) => asset.name === name); n++) name = `${plain} ${n}`
  const bytes = new Uint8Array(await file.arrayBuffer())
  let binary = ''
  for (const byte of bytes) binary += String.fromCharCode(byte)
  edit('own picture', [
    { op: 'replace', path: '/assets', value: [...assets, { name, type: file.type, base64: btoa(binary) }] },
    { op: 'replace', path: visualPath, value: { type: 'picture', asset: name } },
  ])
}
