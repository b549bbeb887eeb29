import { clsx } from 'clsx'
import ui from '../components/ui.module.css'

/** Says of something that no real machine made it. */
export const Simulated = () => <span className={clsx(ui.tag, ui.info)}>simulated</span>
