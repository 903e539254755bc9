import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'
import { programsFolder } from './programs.cjs'

const stamps = '.cache'
/** Started by this Node itself: quicker than by way of npx, and nothing of npm's own is said in between. */
const vite = 'node_modules/vite/bin/vite.js'

/** Runs a command with its output shown; ends this process with its code when it fails. */
function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { stdio: 'inherit', ...options })
  if (error) throw error
  if (status !== 0) process.exit(status ?? 1)
}

/** Installs the packages of the lock file, unless those are installed already. Says what it does or skips. */
export function installPackages(say) {
  const wanted = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex')
  const stamp = join('node_modules', '.tile-tug-lock')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return say('packages: installed, skipped')
  say('packages: installing …')
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel', 'error'])
  writeFileSync(stamp, wanted)
}

/** Builds the app, unless no source has changed since it was built. */
export function build(say) {
  const sources = ['src', 'public', 'demo', 'index.html', 'vite.config.ts', 'package-lock.json']
  const wanted = createHash('sha256')
    .update(
      sources
        .flatMap(listFiles)
        .map((file) => `${file} ${readFileSync(file, 'base64')}`)
        .join('\n'),
    )
    .digest('hex')
  const stamp = join(stamps, 'built')
  if (existsSync('dist/index.html') && existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted)
    return say('app: built, skipped')
  say('app: building …')
  run(process.execPath, [vite, 'build', '--logLevel', 'warn'])
  compress('dist')
  mkdirSync(stamps, { recursive: true })
  writeFileSync(stamp, wanted)
}

/** Files smaller than this are not worth another one beside them, bytes. */
const leastCompressed = 1000

/** Puts a compressed file beside each text of the app: the server sends it to clients that accept it. */
export function compress(folder) {
  for (const file of listFiles(folder)) {
    if (!/\.(html|js|css|svg|json)$/.test(file)) continue
    const bytes = readFileSync(file)
    if (bytes.length < leastCompressed) continue
    const { BROTLI_PARAM_QUALITY, BROTLI_PARAM_SIZE_HINT } = constants
    const params = { [BROTLI_PARAM_QUALITY]: 9, [BROTLI_PARAM_SIZE_HINT]: bytes.length }
    writeFileSync(`${file}.br`, brotliCompressSync(bytes, { params }))
    writeFileSync(`${file}.gz`, gzipSync(bytes, { level: 9 }))
  }
}

/**
 * Compiles the command line and the server, unless no source has changed since. Gives the folder that has them.
 * Commands that start at the same time do not meet: each builds in a folder of its own, and the first to be done gives
 * it the name that all look for.
 */
export function buildPrograms(say) {
  const { folder, isThere } = programsFolder(stamps)
  if (isThere) return folder
  say('command line and server: building …')
  const own = `${folder}-${process.pid}`
  const config = ['-c', 'vite.programs.config.ts', '--outDir', own, '--logLevel', 'error']
  run(process.execPath, [vite, 'build', ...config], { stdio: ['ignore', 'ignore', 'inherit'] })
  run(process.execPath, ['scripts/keep-code.cjs', resolve(own), 'demo/saltmarsh.tiletug.json'], {
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  const former = readdirSync(stamps).filter((name) => /^programs-\d+-\d+$/.test(name))
  try {
    renameSync(own, folder)
  } catch (error) {
    if (!existsSync(folder)) throw error
    rmSync(own, { recursive: true })
    return folder
  }
  for (const name of former) rmSync(join(stamps, name), { recursive: true, force: true })
  return folder
}

const browser = '/usr/bin/chromium'
const shell = '/usr/bin/chromium-headless-shell'
const quietly = { env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } }
const install = ['install', '-y', '-qq', '--no-install-recommends']

/**
 * Chromium from Debian's packages, where there is apt and it is missing; its build without windows if that can be had.
 */
export function installChromium(say) {
  if (existsSync(browser) && existsSync(shell)) return say('Chromium: installed, skipped')
  if (!existsSync('/usr/bin/apt-get')) {
    if (existsSync(browser)) return say('Chromium: installed, skipped')
    say(`Chromium: ${browser} is missing and there is no apt-get here; install it to run the browser tests`)
    process.exit(1)
  }
  say('Chromium: installing …')
  if (!existsSync(browser)) {
    run('apt-get', ['update', '-qq'], quietly)
    run('apt-get', [...install, 'chromium', 'fonts-dejavu-core'], quietly)
  }
  const { status } = spawnSync('apt-get', [...install, 'chromium-headless-shell'], { stdio: 'ignore', ...quietly })
  if (status !== 0) say('Chromium: its build without windows cannot be installed; the whole browser is used')
}

/** Real photos for the test that drives a folder of them; without them made ones are used. */
export function installPhotos(say) {
  const there = ['/usr/share/wallpapers', '/usr/share/backgrounds/mate'].every((folder) => existsSync(folder))
  if (there || !existsSync('/usr/bin/apt-get')) return say('photos: nothing to install')
  say('photos: installing …')
  const args = [...install, 'plasma-workspace-wallpapers', 'mate-backgrounds']
  const { status } = spawnSync('apt-get', args, { stdio: 'ignore', ...quietly })
  if (status !== 0) say('photos: cannot be installed; made ones are used')
}

function listFiles(path) {
  if (!statSync(path).isDirectory()) return [path]
  return readdirSync(path)
    .sort()
    .flatMap((name) => listFiles(join(path, name)))
}
