import { Chip } from '../controls/Chip.tsx'
import { notify } from '../store/project-store.ts'

/** The commands that check the budgets in CI. */
export function InCi({ name }: { name: string }) {
  const file = `${
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'project'
  }.tiletug.json`
  const check = `npm run -s tug -- check ${file} --seeds 10 --junit budgets.xml`
  const shards = `parallel "npm run -s tug -- sweep ${file} --vary /loading/fetchSlots=2,4,6 --jobs 1 --shard {}/4 --csv part-{}.csv" ::: 1 2 3 4
npm run -s tug -- sweep --merge part-*.csv --csv sweep.csv`
  const copy = (text: string) =>
    navigator.clipboard.writeText(text).then(
      () => notify('Copied.'),
      () => notify('The browser blocked the copy: select the text instead.'),
    )
  return (
    <details className="tt-card">
      <summary>In CI</summary>
      <p>
        Save the project file (its menu does that) and run, with exit code 0 when every budget is kept, 1 when one is
        broken, 2 for a wrong file or option:
      </p>
      <pre tabIndex={0}>{check}</pre>
      <Chip onClick={() => void copy(check)}>copy</Chip>
      <p>
        <code>--devices all --networks all</code> holds them everywhere; <code>--against baseline.json</code> reads what{' '}
        <code>run --json</code> has written. A sweep over several machines, or cores:
      </p>
      <pre tabIndex={0}>{shards}</pre>
      <Chip onClick={() => void copy(shards)}>copy</Chip>
    </details>
  )
}
