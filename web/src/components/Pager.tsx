import { Pagination } from 'antd'
import ui from './ui.module.css'

/** The pages of a list that has more than one. */
export default function Pager({
  total,
  size,
  page,
  onChange,
  of,
}: {
  total: number
  size: number
  page: number
  onChange: (page: number) => void
  of: string
}) {
  return (
    <nav className={ui.pages} aria-label={`Pages of ${of}`}>
      <span className={ui.faint}>
        {(page - 1) * size + 1} to {Math.min(total, page * size)} of {total}
      </span>
      <Pagination
        current={page}
        pageSize={size}
        total={total}
        onChange={onChange}
        showSizeChanger={false}
        responsive
        size="small"
      />
    </nav>
  )
}
