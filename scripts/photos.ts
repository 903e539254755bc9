import { picturesFolder } from '../playwright.config.ts'
import { makePhotos } from '../tests/support/photo-folder.ts'

/** The photos of the browser tests, made beforehand where a core is idle; what starts those tests makes them else. */
await makePhotos(picturesFolder)
