import { router } from './router'
import '@fontsource-variable/figtree'
import '@fontsource-variable/jetbrains-mono'
import './theme/base.css'
import { QueryClientProvider } from '@tanstack/react-query'
import { App, ConfigProvider } from 'antd'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { RouterProvider } from 'react-router'
import { access } from './access/access'
import { Gate } from './access/Gate'
import { outbox } from './api/outbox'
import { queryClient } from './api/queries'
import { renewal } from './frame/renewal'
import { PairProvider } from './pairs/PairContext'
import { antd } from './theme/theme'
import { ModeProvider, useMode } from './theme/mode'
import { nonce, styleWithNonce } from './theme/nonce'

styleWithNonce()
access.begin()
renewal.begin()
outbox.begin(() => void queryClient.invalidateQueries())

function Root() {
  const { mode } = useMode()
  return (
    <ConfigProvider
      theme={antd(mode, import.meta.env.PROD)}
      csp={nonce ? { nonce } : undefined}
      wave={{ disabled: true }}
    >
      <App component={false} notification={{ placement: 'bottomRight' }}>
        <QueryClientProvider client={queryClient}>
          <Gate>
            <PairProvider>
              <RouterProvider router={router} />
            </PairProvider>
          </Gate>
        </QueryClientProvider>
      </App>
    </ConfigProvider>
  )
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <ModeProvider>
      <Root />
    </ModeProvider>
  </StrictMode>,
)
