import { App, Button } from 'antd'
import { useCallback } from 'react'

/** Something to be told in a corner, with one thing to do about it. */
export interface Notice {
  /** A later one of the same key takes its place. */
  key: string
  title: string
  description?: string
  /** s it stays. */
  seconds: number
  action: { label: string; run: () => void }
}

/** Tells something in a corner of whichever screen is shown; what is to be done about it closes it. */
export function useNotice(): (notice: Notice) => void {
  const { notification } = App.useApp()
  return useCallback(
    ({ key, title, description, seconds, action }) =>
      notification.open({
        key,
        title,
        description,
        duration: seconds,
        actions: (
          <Button
            size="small"
            type="primary"
            onClick={() => {
              notification.destroy(key)
              action.run()
            }}
          >
            {action.label}
          </Button>
        ),
      }),
    [notification],
  )
}
