import { liveDevice } from './live-device.ts'
import { messageOf, update, type VisitChoice } from './device-state.ts'
import { underWay } from './under-way.ts'

/** The device, for every part that reads it or controls it. */
export { beginFrom, chooseVisits, currentDevice, showScreen, useDevice, type VisitChoice } from './device-state.ts'
export { seenPictures } from './seen-pictures.ts'

export const attachDevice = liveDevice.attach.bind(liveDevice)
export const scaleDevice = liveDevice.scaleTo.bind(liveDevice)
export const currentRun = () => liveDevice.run
export const bringToScreen = liveDevice.bringToScreen.bind(liveDevice)
export const forceStage = liveDevice.forceStage.bind(liveDevice)
export const markNow = liveDevice.markNow.bind(liveDevice)
export const setPace = liveDevice.setPace.bind(liveDevice)
export const startHand = liveDevice.startHand.bind(liveDevice)
export const driveLive = liveDevice.driveLive.bind(liveDevice)
export const stepLive = liveDevice.stepLive.bind(liveDevice)

/** Runs the same script in the virtual world, on the chosen visits unless others are named; each run is kept. */
export async function simulate(visits?: VisitChoice): Promise<void> {
  try {
    await (await import('./simulate-runs.ts')).simulateRuns(visits)
  } catch (error) {
    update({ trouble: `The simulation could not start: ${messageOf(error)}` })
  }
}

/** Ends what is under way, drive or simulation. */
export function cancelWork(): void {
  underWay.simulation?.cancel()
  liveDevice.cancel()
}
