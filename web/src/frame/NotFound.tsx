import { Link } from 'react-router'
import { Empty } from '../components/states'
import ui from '../components/ui.module.css'

export default function NotFound() {
  return (
    <>
      <div className={ui.pagehead}>
        <h1>Nothing here</h1>
      </div>
      <Empty action={<Link to="/">To the bench</Link>}>There is no screen at this address.</Empty>
    </>
  )
}
