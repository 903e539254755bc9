import FormControl from 'react-bootstrap/FormControl'
import { useLiveQuery } from 'dexie-react-hooks'
import { useState } from 'react'
import Button from 'react-bootstrap/Button'
import type { Project } from '../../core/project/types.ts'
import { database } from '../store/database.ts'
import { edit, set } from '../store/project-store.ts'
import { forgetSecret, keepSecret } from '../store/secrets.ts'
import { Chip } from '../controls/Chip.tsx'
import { Fold } from '../controls/Fold.tsx'

/** What the app has been granted, and the headers that hosts want; secrets stay in this browser. */
export function Granted({ project }: { project: Project }) {
  const { granted } = project.device
  const { headers } = project.loading
  const known = useLiveQuery(() => database.secrets.toCollection().primaryKeys(), []) ?? []
  const [host, setHost] = useState('')
  return (
    <Fold title="Permissions and headers" open={headers.length > 0 || !granted.network || !granted.storage}>
      <div className="tt-swatches">
        {(['network', 'storage'] as const).map((what) => (
          <Chip
            key={what}
            aria-pressed={granted[what]}
            onClick={() => set(`/device/granted/${what}`, !granted[what])}
            data-explain={
              what === 'network'
                ? 'Without it every request is refused, with its own reason.'
                : 'Without it there is no disk tier.'
            }
          >
            {granted[what] ? '✓ ' : ''}
            {what}
          </Chip>
        ))}
      </div>
      {headers.map((header, i) => (
        <div key={i} className="tt-source-line">
          <span tabIndex={0} data-explain="Sent to this host and to no other">
            {header.host}: {header.name} {header.scheme}
          </span>
          {known.includes(header.secret) ? (
            <Chip onClick={() => void forgetSecret(header.secret)}>forget “{header.secret}”</Chip>
          ) : (
            <SecretField name={header.secret} />
          )}
          <label
            className="tt-quiet"
            data-explain="The made-up archive refuses what it issued when it is older; it is renewed once for all that were refused. Empty: it never does."
          >
            lasts{' '}
            <FormControl
              size="sm"
              type="number"
              className="tt-small-number"
              aria-label={`Seconds that the credentials of ${header.host} last`}
              min={0.1}
              step={0.1}
              value={header.lastsS ?? ''}
              onChange={(event) =>
                set(`/loading/headers/${i}/lastsS`, event.target.value === '' ? null : Number(event.target.value))
              }
            />{' '}
            s
          </label>
          <Chip
            aria-label={`Remove the header for ${header.host}`}
            onClick={() => edit('header', [{ op: 'remove', path: `/loading/headers/${i}` }])}
          >
            ×
          </Chip>
        </div>
      ))}
      <form
        className="tt-source-line"
        onSubmit={(event) => {
          event.preventDefault()
          set('/loading/headers', [
            ...headers,
            {
              host: host.trim(),
              name: 'Authorization',
              scheme: 'Bearer',
              secret: `${host.trim()} token`,
              lastsS: null,
            },
          ])
          setHost('')
        }}
      >
        <FormControl
          size="sm"
          aria-label="Host that wants a header"
          placeholder="a host that wants a header"
          value={host}
          required
          onChange={(event) => setHost(event.target.value)}
        />
        <Button size="sm" type="submit" variant="outline-primary">
          Add
        </Button>
      </form>
    </Fold>
  )
}

/** A secret is typed once; it is kept in this browser and in no file, log or export. */
function SecretField({ name }: { name: string }) {
  const [value, setValue] = useState('')
  return (
    <form
      className="tt-source-line"
      onSubmit={(event) => {
        event.preventDefault()
        void keepSecret(name, value)
        setValue('')
      }}
    >
      <FormControl
        size="sm"
        type="password"
        autoComplete="off"
        aria-label={`Secret “${name}”`}
        placeholder="secret"
        required
        value={value}
        onChange={(event) => setValue(event.target.value)}
      />
      <Button size="sm" type="submit" variant="outline-primary">
        Keep
      </Button>
    </form>
  )
}
