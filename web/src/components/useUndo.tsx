import { App, Button } from 'antd'
import { useCallback } from 'react'

/** Says what was done and offers to take it back. */
export function useUndo() {
  const { notification } = App.useApp()
  return useCallback(
    (text: string, undo: () => void) => {
      const key = `undo-${Date.now()}`
      notification.open({
        key,
        title: text,
        duration: 12,
        actions: (
          <Button
            size="small"
            type="primary"
            onClick={() => {
              notification.destroy(key)
              undo()
            }}
          >
            Undo
          </Button>
        ),
      })
    },
    [notification],
  )
}
