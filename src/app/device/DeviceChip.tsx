import Dropdown from 'react-bootstrap/Dropdown'
import { edit, set, useProject } from '../store/project-store.ts'
import { MenuItem } from '../controls/MenuItem.tsx'

const widths = [360, 411, 600]
const densities = [1.5, 2, 2.625, 3.5]

/** The device's screen: its width, density, and which way it is held; changed at once. */
export default function DeviceChip() {
  const { device } = useProject()!.project
  const turn = () =>
    edit('turn the device', [
      { op: 'replace', path: '/device/widthDp', value: device.heightDp },
      { op: 'replace', path: '/device/heightDp', value: device.widthDp },
    ])
  /** Widths are those of the device in portrait. */
  const widen = (width: number) =>
    edit('device width', [
      { op: 'replace', path: '/device/widthDp', value: width },
      { op: 'replace', path: '/device/heightDp', value: Math.max(device.widthDp, device.heightDp) },
    ])
  return (
    <Dropdown>
      <Dropdown.Toggle
        className="tt-chip"
        id="device-chip"
        data-explain={`${device.name}: ${device.widthDp} × ${device.heightDp} dp, ${device.density} px a dp, ${device.refreshHz} Hz; illustrative values`}
      >
        {device.refreshHz} Hz
      </Dropdown.Toggle>
      <Dropdown.Menu>
        <MenuItem onClick={turn}>Turn it</MenuItem>
        <Dropdown.Divider />
        {widths.map((width) => (
          <MenuItem key={width} active={device.widthDp === width} onClick={() => widen(width)}>
            {width} dp wide
          </MenuItem>
        ))}
        <Dropdown.Divider />
        {densities.map((density) => (
          <MenuItem key={density} active={device.density === density} onClick={() => set('/device/density', density)}>
            {density} px a dp
          </MenuItem>
        ))}
      </Dropdown.Menu>
    </Dropdown>
  )
}
