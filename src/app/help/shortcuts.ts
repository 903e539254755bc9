/**
 * The shortcuts as the help panel lists them. What each does is where it acts: `shell/Shell.tsx`, the device, the map,
 * handles.
 */
export const shortcuts = [
  { where: 'Everywhere', keys: '1 – 7', does: 'Go to a step', single: true },
  { where: 'Everywhere', keys: 'V', does: 'Show the other variant', single: true },
  { where: 'Everywhere', keys: 'M', does: 'Mark this moment of a live drive', single: true },
  { where: 'Everywhere', keys: '?', does: 'Open this panel', single: true },
  { where: 'Everywhere', keys: 'Ctrl or Cmd + Z', does: 'Undo', single: false },
  { where: 'Everywhere', keys: 'Ctrl or Cmd + Shift + Z', does: 'Redo', single: false },
  { where: 'Device', keys: 'Arrows, Page Up, Page Down, Home, End', does: 'Scroll the list', single: false },
  { where: 'Device', keys: 'R', does: 'Load failed pictures again', single: false },
  { where: 'Scroll map', keys: 'Arrows', does: 'Step through the requests', single: false },
  { where: 'Scroll map', keys: 'Shift + arrows', does: 'Select a part', single: false },
  { where: 'Scroll map', keys: '+ and −, 0', does: 'Zoom in and out, show all', single: false },
  { where: 'Scroll map', keys: 'Escape', does: 'Clear the selection', single: false },
  { where: 'Handles and edges', keys: 'Arrows', does: 'Move by one step; with Shift by five', single: false },
] as const
