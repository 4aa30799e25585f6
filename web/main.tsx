import createCache from '@emotion/cache';
import { CacheProvider } from '@emotion/react';
import CssBaseline from '@mui/material/CssBaseline';
import { ThemeProvider } from '@mui/material/styles';
import { StrictMode, useMemo } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { AppFrame } from './frame/AppFrame.tsx';
import { NoSuchPage } from './frame/NoSuchPage.tsx';
import { pages } from './frame/pages.tsx';
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
            {pages.map(({ path, more = '', Page }) => (
              <Route key={path} path={path + more} element={<Page />} />
            ))}
            <Route index element={<Navigate to="/intake" replace />} />
            <Route path="*" element={<NoSuchPage />} />
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
