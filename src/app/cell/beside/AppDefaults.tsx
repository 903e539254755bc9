import type { ReactNode } from 'react'
import { valueAt } from '../../../core/feed/json-pointer.ts'
import { settingAt } from '../../../core/project/settings-index.ts'
import { removeSet, renameSet, sourcesOf } from '../../../core/project/slot-sources.ts'
import { Amount } from '../../controls/Amount.tsx'
import { Chip } from '../../controls/Chip.tsx'
import { Choice } from '../../controls/Choice.tsx'
import { Fold } from '../../controls/Fold.tsx'
import { NameField } from '../../controls/NameField.tsx'
import { edit, set, useProject } from '../../store/project-store.ts'

const at = '/pictures/defaults'

/** The defaults of all pictures of the app, which slots follow them, and the named sets in between. */
export function AppDefaults() {
  const { project } = useProject()!
  const now = (setting: string): unknown =>
    valueAt(project.pictures.defaults, setting) ?? settingAt(at + setting).default
  const choice = (setting: string, names: Record<string, string>) => (
    <Choice path={at + setting} value={String(now(setting))} names={names} />
  )
  const corner = (now('/cornersDp') as number[])[0]!
  const rows: readonly [string, ReactNode][] = [
    [
      '/fit',
      choice('/fit', { contain: 'contain', cover: 'cover', fill: 'fill', none: 'none', 'scale-down': 'scale down' }),
    ],
    ['/transition/type', choice('/transition/type', { none: 'none', fade: 'fade', 'fade-grow': 'fade and grow' })],
    [
      '/transition/ms',
      <Amount
        key="ms"
        path={`${at}/transition/ms`}
        value={Number(now('/transition/ms'))}
        from={0}
        to={1000}
        step={10}
      />,
    ],
    [
      '/cornersDp',
      <Amount
        key="corners"
        path={`${at}/cornersDp`}
        value={corner}
        from={0}
        to={64}
        onChange={(dp) => set(`${at}/cornersDp`, [dp, dp, dp, dp])}
      />,
    ],
    ['/shadowDp', <Amount key="shadow" path={`${at}/shadowDp`} value={Number(now('/shadowDp'))} from={0} to={24} />],
    ['/priority', choice('/priority', { low: 'low', normal: 'normal', high: 'high' })],
  ]
  return (
    <Fold title="All pictures of the app">
      <p className="tt-quiet">What every picture has unless its slot or its set says otherwise.</p>
      {rows.map(([setting, control]) => (
        <div key={setting} className="tt-default">
          {control}
          <Followers setting={setting} />
        </div>
      ))}
      <Sets />
    </Fold>
  )
}

/** How many slots follow the app's default for a setting, and which do not. */
function Followers({ setting }: { setting: string }) {
  const { raw, project } = useProject()!
  const sources = sourcesOf(raw, project, setting)
  const { label } = settingAt(at + setting)
  const others = sources.filter(({ from }) => from !== 'app')
  return (
    <div className="tt-swatches" role="group" aria-label={`Who follows in ${label}`}>
      <span className="tt-quiet">
        {sources.length - others.length} of {sources.length} follow{others.length > 0 ? '; not' : ''}
      </span>
      {others.map(({ path, name, from, set: used }) =>
        from === 'slot' ? (
          <Chip
            key={path}
            data-explain={`${name} has its own ${label}; press to let it follow`}
            onClick={() => edit(`let ${name} follow in ${label}`, [{ op: 'remove', path: path + setting }])}
          >
            {name} ×
          </Chip>
        ) : (
          <span key={path} className="tt-quiet" data-explain={`The set “${used}” says its ${label}`} tabIndex={0}>
            {name} ({used})
          </span>
        ),
      )}
    </div>
  )
}

function Sets() {
  const { raw, project } = useProject()!
  const names = Object.keys(project.pictures.sets)
  const users = (name: string) =>
    sourcesOf(raw, project, '')
      .filter((slot) => slot.set === name)
      .map((slot) => slot.name)
  return (
    <div className="tt-sets" role="group" aria-label="Named sets">
      <h3>Named sets</h3>
      {names.length === 0 && (
        <p className="tt-quiet">None yet: “keep as a set” makes one of what a slot says for itself.</p>
      )}
      {names.map((name) => (
        <div key={name} className="tt-default">
          <div className="tt-own-preset">
            <NameField
              label={`Name of the set ${name}`}
              name={name}
              taken={names}
              onName={(next) => edit(`call the set ${next}`, renameSet(raw, name, next))}
            />
            <Chip
              aria-label={`Remove the set ${name}`}
              data-explain="Slots that use it keep its values as their own"
              onClick={() => edit(`remove the set ${name}`, removeSet(raw, name))}
            >
              ×
            </Chip>
          </div>
          <span className="tt-quiet">
            {Object.keys(project.pictures.sets[name]!).join(', ')} ·{' '}
            {users(name).length === 0 ? 'used by no slot' : `used by ${users(name).join(', ')}`}
          </span>
        </div>
      ))}
    </div>
  )
}
