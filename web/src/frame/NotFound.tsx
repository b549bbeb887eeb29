import { Link } from 'react-router'
import { Empty } from '../components/states'

export default function NotFound() {
  return <Empty action={<Link to="/">To the bench</Link>}>There is no screen at this address.</Empty>
}
