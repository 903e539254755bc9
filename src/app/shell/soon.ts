/**
 * What every opening of the app needs and its first paint does not: the live list, the parts of the frame around the
 * steps, and what must work with the server away, such as keeping a drive, simulating, opening a project file, waiting
 * for the server's return. One file for all of it (vite.config.ts): a hundred small ones cost an opening more than
 * their content does.
 */
import '../../core/feed/known-items.ts'
import '../../core/project/differences.ts'
import '../../core/project/parse-text.ts'
import '../../live/live-frames.ts'
import '../../live/live-run.ts'
import '../../live/own-server.ts'
import '../help/Hint.tsx'
import '../device/DeviceChip.tsx'
import '../device/DeviceReadout.tsx'
import '../device/FeedSign.tsx'
import '../device/PaceChip.tsx'
import '../device/ScreenChip.tsx'
import '../device/ScriptPick.tsx'
import '../device/VariantChip.tsx'
import '../device/keep-drive.ts'
import '../device/simulate-runs.ts'
import '../simulate/FollowHand.tsx'
import '../store/variants.ts'
import './DroppedFiles.tsx'
import './Explanations.tsx'
import './KeptFocus.tsx'
import './Notices.tsx'
import './ProjectMenu.tsx'
import './Strip.tsx'
