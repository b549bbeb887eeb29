import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { configure, render } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { App, ConfigProvider } from 'antd'
import type { ReactNode } from 'react'
import { MemoryRouter, Route, Routes, useLocation } from 'react-router'
import { PairProvider } from '../src/pairs/PairContext'

// a failed search says what it missed, not the whole page
configure({
  // a slow machine is no failure
  asyncUtilTimeout: Number(process.env.VERIMEND_WAIT_MS ?? 30_000),
  // whether something is hidden is worked out from every style there is: too dear here
  defaultHidden: true,
  getElementError: (message) => new Error(message ?? 'not found'),
})

export interface Asked {
  method: string
  path: string
  body: unknown
}
/** "GET cases": what it answers with, or a function of what was sent. A problem document has a status of 400 or more. */
export type Answers = Record<string, unknown>

/** Stands in for the server: notes what was asked, answers what was said. */
export function server(answers: Answers): Asked[] {
  const asked: Asked[] = []
  globalThis.fetch = (async (url: string, init: { method?: string; body?: string } = {}) => {
    const method = init.method ?? 'GET'
    const path = String(url).replace(/^\/api\//, '')
    const body: unknown = init.body === undefined ? undefined : JSON.parse(init.body)
    asked.push({ method, path, body })
    const answer = answers[`${method} ${path}`] ?? answers[`${method} ${path.split('?')[0]}`]
    if (answer === 'away') throw new TypeError('no answer')
    const data = typeof answer === 'function' ? (answer as (b: unknown) => unknown)(body) : (answer ?? [])
    const status = Number((data as { status?: number } | null)?.status ?? 200) || 200
    return { ok: status < 400, status, json: async () => data }
  }) as unknown as typeof fetch
  return asked
}

function Where() {
  const { pathname, search, hash } = useLocation()
  return <pre aria-label="where">{`${pathname}${search}${hash}`}</pre>
}

/** Shows a part of the app at an address, with everything round it that the app gives it. */
export function show(ui: ReactNode, { at = '/', route = '*' }: { at?: string; route?: string } = {}) {
  const client = new QueryClient({
    defaultOptions: { queries: { retry: false }, mutations: { retry: false } },
  })
  const user = userEvent.setup({ delay: null, pointerEventsCheck: 0 })
  const view = render(
    <ConfigProvider
      theme={{ token: { motion: false }, zeroRuntime: true, hashed: false }}
      wave={{ disabled: true }}
    >
      <App component={false}>
        <QueryClientProvider client={client}>
          <PairProvider>
            <MemoryRouter initialEntries={[at]}>
              <Routes>
                <Route path={route} element={ui} />
                <Route path="*" element={<p>elsewhere</p>} />
              </Routes>
              <Where />
            </MemoryRouter>
          </PairProvider>
        </QueryClientProvider>
      </App>
    </ConfigProvider>,
  )
  return { ...view, user, client, where: () => view.getByLabelText('where').textContent }
}
