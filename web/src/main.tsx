import '@fontsource-variable/figtree'
import '@fontsource-variable/jetbrains-mono'
import './theme/base.css'
import { QueryClientProvider } from '@tanstack/react-query'
import { App, ConfigProvider } from 'antd'
import { StrictMode, type ComponentType } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, RouterProvider } from 'react-router'
import { queryClient } from './api/queries'
import { Frame } from './frame/Frame'
import { PairProvider } from './pairs/PairContext'
import { antd } from './theme/theme'
import { ModeProvider, useMode } from './theme/mode'
import { nonce, styleWithNonce } from './theme/nonce'
import { ErrorBoundary } from './frame/ErrorBoundary'

const page = (load: () => Promise<{ default: ComponentType }>) => async () => ({
  Component: (await load()).default,
})

const router = createBrowserRouter([
  {
    path: '/',
    Component: Frame,
    ErrorBoundary,
    HydrateFallback: () => null,
    children: [
      { index: true, lazy: page(() => import('./bench/Bench')) },
      { path: 'cases', lazy: page(() => import('./cases/CaseList')) },
      { path: 'cases/new', lazy: page(() => import('./cases/NewCase')) },
      { path: 'cases/:id', lazy: page(() => import('./cases/CaseScreen')) },
      { path: 'recipes', lazy: page(() => import('./recipes/RecipeScreen')) },
      { path: 'trials', lazy: page(() => import('./trials/TrialsScreen')) },
      { path: 'trials/new/:piece', lazy: page(() => import('./trials/PlanTrial')) },
      { path: 'trials/:id', lazy: page(() => import('./trials/TrialPage')) },
      { path: 'trials/:id/read', lazy: page(() => import('./trials/ReadTrial')) },
      { path: 'paths', lazy: page(() => import('./paths/PathsScreen')) },
      { path: 'shelf', lazy: page(() => import('./shelf/Shelf')) },
      { path: 'shelf/:id', lazy: page(() => import('./shelf/FilamentForm')) },
      { path: 'machines', lazy: page(() => import('./machines/Machines')) },
      { path: 'machines/:id', lazy: page(() => import('./machines/MachineForm')) },
      { path: 'handbook', lazy: page(() => import('./handbook/Handbook')) },
      { path: 'handbook/:chapter', lazy: page(() => import('./handbook/Handbook')) },
      { path: '*', lazy: page(() => import('./frame/NotFound')) },
    ],
  },
])

styleWithNonce()

function Root() {
  const { mode } = useMode()
  return (
    <ConfigProvider theme={antd(mode)} csp={nonce ? { nonce } : undefined} wave={{ disabled: true }}>
      <App component={false} notification={{ placement: 'bottomRight' }}>
        <QueryClientProvider client={queryClient}>
          <PairProvider>
            <RouterProvider router={router} />
          </PairProvider>
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
