import { createParamDecorator, type ExecutionContext } from '@nestjs/common'
import type { Response } from 'express'

/** A signal that is given when nobody waits for the answer any more: work for it can end. */
export const Gone = createParamDecorator((_: unknown, context: ExecutionContext): AbortSignal => {
  const response = context.switchToHttp().getResponse<Response>()
  const controller = new AbortController()
  response.once('close', () => {
    if (!response.writableFinished) controller.abort()
  })
  return controller.signal
})
