import './theme.css'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter } from 'react-router'
import { Toaster } from 'sonner'
import { isPassing } from '../api/client'
import { textsReady } from '../texts'
import { applyTheme, storedTheme } from './theme'

applyTheme(storedTheme())

const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: (count, error) => isPassing(error) && count < 20, retryDelay: (n) => Math.min(4000, 300 * 2 ** n), staleTime: 5_000 },
    mutations: { retry: false },
  },
})

// Nothing of the interface is read before its texts are there: much of it is said when its module is.
await textsReady()
const { App } = await import('./App')

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <App />
        <Toaster
          position="bottom-right"
          toastOptions={{ className: '!rounded-sm !bg-base-100 !text-base-content !border-base-300 !shadow-sm !font-sans' }}
        />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
)
