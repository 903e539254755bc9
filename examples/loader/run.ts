import { ExampleLoader } from './loader.ts'
import { speak } from './speak.ts'

await speak((policy) => new ExampleLoader(policy))
