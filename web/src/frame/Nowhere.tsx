import { Link } from 'react-router'
import { Empty } from '../parts/Problem'

export default function Nowhere() {
  return <Empty action={<Link to="/">To the bench</Link>}>There is no screen at this address.</Empty>
}
