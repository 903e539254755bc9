/** Who may import whom (docs/architecture.md). Each rule names the rooms that a room may not look into. */
const core = (room) => `^src/core/${room}/`
const only = (name, from, allowed) => ({
  name,
  severity: 'error',
  comment: `${name}: see docs/architecture.md, "Who imports whom"`,
  from: { path: from },
  to: { path: '^src/', pathNot: allowed },
})

module.exports = {
  forbidden: [
    {
      name: 'no-circular',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    only('numbers-know-nobody', core('numbers'), [core('numbers')]),
    only('network', core('network'), [core('network'), core('numbers')]),
    only('project-knows-nobody', core('project'), [core('project'), core('numbers')]),
    only('log-knows-ports-and-types', core('log'), [
      core('log'),
      core('numbers'),
      core('project'),
      '^src/core/worlds/ports',
    ]),
    only('feed', core('feed'), [core('feed'), core('numbers'), core('project')]),
    only('layout', core('layout'), [core('layout'), core('feed'), core('numbers'), core('project')]),
    only('scrolling', core('scrolling'), [
      core('scrolling'),
      core('numbers'),
      core('project'),
      '^src/core/(worlds/ports|log/event-kinds)',
    ]),
    only('recycling', core('recycling'), [core('recycling')]),
    only('loading', core('loading'), [
      core('loading'),
      core('log'),
      core('numbers'),
      core('project'),
      '^src/core/worlds/ports',
    ]),
    only('virtual-world', core('worlds'), [
      core('worlds'),
      core('network'),
      core('feed'),
      core('layout'),
      core('loading'),
      core('numbers'),
      core('project'),
      core('log'),
    ]),
    only('run', core('run'), [core('(run|feed|layout|loading|recycling|scrolling|worlds|log|numbers|project)')]),
    only('profile', core('profile'), [core('(profile|log|loading|numbers|project)')]),
    only('compare', core('compare'), [core('(compare|profile|run|log|numbers|project)')]),
    only('formats', core('formats'), [core('(formats|log|numbers|project)')]),
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
