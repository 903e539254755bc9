import type { SweepRow } from '../../core/sweep/sweep-row.ts'
import { formatFigure, type Figure } from '../runs/figures.ts'
import { valueText, type Setting } from '../../core/sweep/setting.ts'
import { labelOf } from '../../core/sweep/default-values.ts'

/** A value as it is said. */
export const valueWord = (setting: Setting) => valueText(setting) || 'none'

/** Settings in a few words: "Fetch slots 4, Coming up 2". */
export const settingsWord = (settings: readonly Setting[]) =>
  settings.map((setting) => `${labelOf(setting.path)} ${valueWord(setting)}`).join(', ')

/** The same without the intervals: "0.0 ms/s late, 65.1 % holes". */
export const mediansOf = (figures: readonly (Figure & { word: string })[], metrics: SweepRow['metrics']) =>
  figures
    .map((figure) => {
      const interval = metrics[figure.id]
      return interval ? `${formatFigure(figure, interval.median)} ${figure.word}` : `no ${figure.word}`
    })
    .join(', ')

/** Figures of a row in words: "0.0 ms/s late, from 0.0 to 0.1 · 65.1 % holes, from 63.9 to 66.2". */
export const figureWords = (figures: readonly (Figure & { word: string })[], metrics: SweepRow['metrics']) =>
  figures
    .map((figure) => {
      const interval = metrics[figure.id]
      if (!interval) return `no ${figure.word}`
      return `${formatFigure(figure, interval.median)} ${figure.word}, from ${figure.form(interval.low).text} to ${figure.form(interval.high).text}`
    })
    .join(' · ')
