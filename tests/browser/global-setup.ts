import { startServer } from '../../src/server/server.ts'
import { picturesFolder, testPort } from '../../playwright.config.ts'
import { makePhotos } from '../support/photo-folder.ts'

/** Makes a folder of photos and starts the server that all browser tests share. */
export default async function setUp(): Promise<() => Promise<void>> {
  await makePhotos(picturesFolder)
  const server = await startServer({
    port: testPort,
    dist: 'dist',
    pictures: picturesFolder,
    // Names of the tests' own hosts lead to this machine.
    relay: {
      rules: { hosts: ['*.tests.example.test'], loopback: true },
      resolve: async () => ['127.0.0.1'],
      timeoutMs: 5000,
    },
  })
  return () => server.close()
}
