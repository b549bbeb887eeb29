import { Backups } from './Backups'
import { Licences } from './Licences'
import { PutAway } from './PutAway'
import { SignedIn } from './SignedIn'
import ui from '../components/ui.module.css'

/** What is kept besides what is worked on: backups, what was put away, and what the application is made of. */
export default function Storeroom() {
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Storeroom</h1>
      </div>
      <div className={ui.stack} style={{ gap: 16 }}>
        <Backups />
        <PutAway />
        <SignedIn />
        <Licences />
      </div>
    </>
  )
}
