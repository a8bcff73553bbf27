import '@fontsource/barlow/latin-400.css'
import '@fontsource/barlow/latin-600.css'
import '@fontsource/barlow-semi-condensed/latin-600.css'
import '@fontsource/jetbrains-mono/latin-400.css'
import '@fontsource/jetbrains-mono/greek-400.css'
import './look/index.css'
import { ChakraProvider } from '@chakra-ui/react'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode, Suspense, lazy } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router'
import { Shelf } from './screens/shelf/Shelf'
import { setLook } from './state/look'
import { system } from './theme'
import { Boundary } from './ui/Boundary'
import { Toasts } from './ui/toasts'

const ProjectScreen = lazy(() => import('./screens/project/Project'))
const Alone = lazy(() => import('./screens/Alone'))
const client = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } })

setLook()

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <ChakraProvider value={system}>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <Boundary what="this page">
            <Suspense fallback={<p className="wait">Opening …</p>}>
              <Routes>
                <Route path="/" element={<Shelf />} />
                <Route path="/alone/:stage" element={<Alone />} />
                <Route path="/project/:id/*" element={<ProjectScreen />} />
                <Route
                  path="*"
                  element={
                    <main className="wait">
                      <title>Nothing here · Rhombos</title>
                      <h1>Nothing is kept here.</h1>
                      <a className="act" href="/">
                        To the shelf
                      </a>
                    </main>
                  }
                />
              </Routes>
            </Suspense>
          </Boundary>
        </BrowserRouter>
        <Toasts />
      </QueryClientProvider>
    </ChakraProvider>
  </StrictMode>,
)
