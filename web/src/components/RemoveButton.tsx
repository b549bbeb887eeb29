import { Button } from 'antd'

/** Takes one thing off a list; what it is is said for those who do not see the row. */
export function RemoveButton({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <Button size="small" type="text" onClick={onClick} aria-label={`Remove ${what}`}>
      Remove
    </Button>
  )
}
