/**
 * Who may import whom (docs/architecture.md). Each rule names the rooms that a room may look into; type imports count.
 */
const core = (room) => `^src/core/${room}/`
/** What the engine wants of a world: known to all who live in one. */
const ports = '^src/core/worlds/(ports|timer-clock)'
const only = (name, from, allowed) => ({
  name,
  severity: 'error',
  comment: `${name}: see docs/architecture.md, "Who imports whom"`,
  from: { path: from },
  to: { path: '^src/', pathNot: allowed },
})

/** The rooms of the core, in the order of docs/architecture.md: each may look into itself and into these. */
const rooms = {
  numbers: [],
  project: ['numbers'],
  feed: ['project', 'numbers'],
  layout: ['feed', 'project', 'numbers'],
  scrolling: ['project', 'numbers'],
  log: ['project', 'numbers'],
  network: ['feed', 'project', 'numbers'],
  loading: ['log', 'project', 'numbers'],
  worlds: ['loading', 'network', 'log', 'layout', 'feed', 'project', 'numbers'],
  list: ['loading', 'log', 'scrolling', 'layout', 'feed', 'project', 'numbers'],
  simulate: ['list', 'loading', 'worlds', 'network', 'log', 'scrolling', 'layout', 'feed', 'project', 'numbers'],
  watch: ['simulate', 'list', 'loading', 'log', 'project', 'numbers'],
  profile: ['loading', 'log', 'project', 'numbers'],
  compare: ['profile', 'simulate', 'network', 'log', 'project', 'numbers'],
  sweep: ['compare', 'profile', 'simulate', 'feed', 'project', 'numbers'],
  evidence: ['profile', 'log', 'scrolling', 'list', 'layout', 'feed', 'project', 'numbers'],
  vectors: ['simulate', 'loading', 'log', 'project', 'numbers'],
  handoff: ['sweep', 'compare', 'profile', 'simulate', 'feed', 'project', 'numbers'],
}
/** Single files of other rooms that a room may know: an event's names, the patterns of hosts. */
const besides = {
  scrolling: ['^src/core/log/event-kinds'],
  network: ['^src/core/loading/hosts'],
}

module.exports = {
  forbidden: [
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    ...Object.entries(rooms).map(([room, others]) =>
      only(`core-${room}`, core(room), [core(room), ports, ...others.map(core), ...(besides[room] ?? [])]),
    ),
    only('facts-know-no-figures', '^src/core/profile/facts/', [
      '^src/core/profile/facts/',
      ...['loading', 'log', 'project', 'numbers'].map(core),
    ]),
    only('core-stays-in-core', '^src/core/', ['^src/core/']),
    only('workers', '^src/workers/', ['^src/(workers|core)/']),
    only('live', '^src/live/', ['^src/(live|core|workers)/']),
    only('server', '^src/server/', ['^src/(server|core)/']),
    only('cli', '^src/cli/', ['^src/(cli|server|core)/']),
    only('app', '^src/app/', ['^src/(app|live|workers|core)/']),
  ],
  options: {
    tsPreCompilationDeps: true,
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.base.json' },
  },
}
