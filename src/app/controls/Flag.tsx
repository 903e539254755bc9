import { dequal } from 'dequal'
import { memo } from 'react'
import { settingAt } from '../../core/project/settings-index.ts'
import { set } from '../store/project-store.ts'
import { Choice } from './Choice.tsx'

/** A setting that is on or off. */
export const Flag = memo(
  ({ path, value, names = ['yes', 'no'] }: { path: string; value: boolean; names?: readonly [string, string] }) => {
    return (
      <div data-explain={settingAt(path).explain}>
        <Choice
          path={path}
          value={String(value)}
          names={{ true: names[0], false: names[1] }}
          onChange={(next) => set(path, next === 'true')}
        />
      </div>
    )
  },
  dequal,
)
