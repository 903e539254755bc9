import { escaped, mapSvg } from './map-svg.ts'
import type { Sheet } from './sheet.ts'
import { proofOf } from './sheet-markdown.ts'

const style = `
body { max-width: 48rem; margin: 2rem auto; padding: 0 1rem; font: 16px/1.5 system-ui, sans-serif; color: #15252f; background: #fffdf8; }
h1 { line-height: 1.2; } h2 { margin: 1.8rem 0 0.4rem; border-bottom: 1px solid #ddd5c5; }
li { margin: 0.5rem 0; } em { color: #54626a; } pre { padding: 0.6rem 0.8rem; background: #efeadf; white-space: pre-wrap; }
figure { display: inline-block; width: 48%; margin: 0; } figcaption { color: #54626a; }
.broken { color: #c03a2b; font-weight: 700; }
@media print { body { margin: 0; background: none; } h2 { break-after: avoid; } li, pre, figure { break-inside: avoid; } }
`

/** The sheet as one self-contained page, with the map before and after. */
export function sheetHtml(sheet: Sheet): string {
  const {
    project,
    screen,
    script,
    device,
    network,
    seeds,
    groups,
    steps,
    granted,
    budgets,
    mended,
    notLookedAt,
    maps,
  } = sheet
  const items = (lines: readonly string[]) => `<ul>${lines.map((line) => `<li>${line}</li>`).join('')}</ul>`
  const part = (title: string, body: string) => `<section><h2>${escaped(title)}</h2>${body}</section>`
  const body = [
    `<h1>${escaped(project)}: what the app takes over</h1>`,
    `<p>Made on “${escaped(screen)}” with the gesture “${escaped(script)}”, on ${escaped(device)} over ${escaped(network)}; figures are medians over ${seeds} seeds, with their 95 % interval, against a plain loader that differs in that one setting alone.</p>`,
    ...(maps
      ? [
          `<figure>${mapSvg(maps.before, 'Scroll map with a plain loader')}<figcaption>A plain loader</figcaption></figure> `,
          `<figure>${mapSvg(maps.after, 'Scroll map with these settings')}<figcaption>These settings</figcaption></figure>`,
        ]
      : []),
    ...(granted.length > 0 ? [part('What the app must be granted', items(granted.map(escaped)))] : []),
    ...groups.map(({ place, lines }) =>
      part(
        `At ${place}`,
        items(
          lines.map(
            ({ label, value, plain, say, reason, proof, comment }) =>
              `<strong>${escaped(label)}: ${escaped(value)}</strong> (a plain loader: ${escaped(plain)}). ${escaped(say)} ${escaped(reason)} <em>${escaped(proofOf(proof).replaceAll('_', ''))}</em>${comment ? ` <strong>Comment:</strong> ${escaped(comment)}` : ''}`,
          ),
        ),
      ),
    ),
    ...(steps.length > 0
      ? [
          part(
            'The policy as steps',
            steps
              .map(
                ({ at, steps: own }) =>
                  `<h3>${escaped(at[0]!.toUpperCase() + at.slice(1))}</h3><pre>${escaped(own.join('\n'))}</pre>`,
              )
              .join(''),
          ),
        ]
      : []),
    ...(budgets.length > 0
      ? [
          part(
            'Budgets',
            items(
              budgets.map(
                ({ ok, message, margin }) =>
                  `<span class="${ok ? 'kept' : 'broken'}">${ok ? 'Kept' : 'Broken'}</span>: ${escaped(message)}${margin === null ? '' : `, ${Math.round(100 * margin)} % ${ok ? 'to spare' : 'beyond it'}`}.`,
              ),
            ),
          ),
        ]
      : []),
    ...(mended.length > 0 ? [part('Mistakes that this avoids', items(mended.map(escaped)))] : []),
    ...(notLookedAt.length > 0 ? [part('What was not looked at', items(notLookedAt.map(escaped)))] : []),
  ].join('\n')
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escaped(project)}: what the app takes over</title>
<style>${style}</style>
</head>
<body>
${body}
</body>
</html>
`
}
