import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { StrictMode, useMemo } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { AppFrame } from './frame/AppFrame.tsx';
import { ConvertPage } from './pages/convert/ConvertPage.tsx';
import { InspectPage } from './pages/inspect/InspectPage.tsx';
import { IntakePage } from './pages/intake/IntakePage.tsx';
import { JobsPage } from './pages/jobs/JobsPage.tsx';
import { ReceiptsPage } from './pages/receipts/ReceiptsPage.tsx';
import { ReckonerPage } from './pages/reckoner/ReckonerPage.tsx';
import { HistoryPage } from './pages/rename/HistoryPage.tsx';
import { RenamePage } from './pages/rename/RenamePage.tsx';
import { SpecsPage } from './pages/specs/SpecsPage.tsx';
import { store, useAppSelector } from './state/store.ts';
import { makeTheme } from './theme/theme.ts';

const nonce = document.querySelector<HTMLMetaElement>('meta[name=csp-nonce]')?.content;
const styles = createCache({ key: 'shale', nonce, prepend: true });

function App() {
  const scheme = useAppSelector((state) => state.view.scheme);
  const theme = useMemo(() => makeTheme(scheme), [scheme]);
  return (
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <BrowserRouter>
        <Routes>
          <Route element={<AppFrame />}>
            <Route path="/intake" element={<IntakePage />} />
            <Route path="/inspect/:id?" element={<InspectPage />} />
            <Route path="/convert/:id?" element={<ConvertPage />} />
            <Route path="/rename" element={<RenamePage />} />
            <Route path="/rename/history" element={<HistoryPage />} />
            <Route path="/specs/:kind?/:id?" element={<SpecsPage />} />
            <Route path="/jobs" element={<JobsPage />} />
            <Route path="/reckoner" element={<ReckonerPage />} />
            <Route path="/receipts/:job?" element={<ReceiptsPage />} />
            <Route path="*" element={<Navigate to="/intake" replace />} />
          </Route>
        </Routes>
      </BrowserRouter>
    </ThemeProvider>
  );
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={store}>
      <CacheProvider value={styles}>
        <App />
      </CacheProvider>
    </Provider>
  </StrictMode>,
);
