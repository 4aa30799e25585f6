import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useEffect, useRef, useState, useSyncExternalStore } from 'react';
import { useDropzone, type FileWithPath } from 'react-dropzone';
import { useSearchParams } from 'react-router';
import type { OfferedFile } from '@shale/contract';
import { useBringInMutation } from '../../api/api.ts';
import { uploader, type Dropped, type UploadState } from '../../intake/uploader.ts';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes, printCount, printLeft } from '../../pieces/words.ts';

/** Paths below the folder that was dropped, and what the drop is called: that folder, or the day. */
function arrange(files: readonly FileWithPath[]): { name: string; dropped: Dropped[] } {
  const paths = files.map((file) => (file.path || file.name).replace(/^\.?\/+/, ''));
  const tops = new Set(paths.map((path) => (path.includes('/') ? path.slice(0, path.indexOf('/')) : '')));
  const [top] = tops;
  const oneFolder = tops.size === 1 && top !== '';
  return {
    name: oneFolder ? top! : `drop ${new Date().toISOString().slice(0, 16).replace('T', ' ').replace(':', '')}`,
    dropped: files.map((file, index) => ({
      file,
      path: oneFolder ? paths[index]!.slice(top!.length + 1) : paths[index]!,
    })),
  };
}

function Progress({ state, onGoOn }: { state: UploadState; onGoOn: () => void }) {
  const { phase, arrived, files, bytes, sent, since, before, hidden, folder, problem } = state;
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, []);
  const seconds = Math.max(0.5, (now - since) / 1000);
  const rate = sent / seconds;
  const link = { fontSize: 13, fontFamily: 'inherit', verticalAlign: 'baseline' } as const;
  const action = (words: string, act: () => void) => (
    <Link component="button" sx={link} onClick={act}>
      {words}
    </Link>
  );
  return (
    <Box role="status" aria-label="Uploading" sx={{ fontSize: 13, textAlign: 'left' }}>
      {phase === 'sending' || phase === 'announcing' ? (
        <>
          <Typography noWrap sx={{ fontWeight: 600, fontSize: 13 }}>
            {phase === 'announcing' ? `Looking at ${plural(files, 'file')}` : `Into ${folder}`}
          </Typography>
          <LinearProgress
            aria-label="Upload"
            variant={phase === 'sending' && bytes > 0 ? 'determinate' : 'indeterminate'}
            value={(100 * sent) / Math.max(1, bytes)}
            sx={{ height: 5, borderRadius: 3, my: 0.75 }}
          />
          <Box sx={{ color: 'text.secondary', fontVariantNumeric: 'tabular-nums' }}>
            {printCount(arrived)} of {plural(files, 'file')}
            <br />
            {phase === 'sending' &&
              `${printBytes(Math.round(rate))}/s, ${printLeft((bytes - sent) / Math.max(1, rate))} left`}
          </Box>
          {action('Stop', () => uploader.stop())}
        </>
      ) : phase === 'done' ? (
        <>
          <State severity="note">{plural(files, 'file')} uploaded</State>
          <Box sx={{ color: 'text.secondary', overflowWrap: 'anywhere' }}>
            into {folder}
            {before > 0 &&
              `; ${before === files ? 'all' : printCount(before)} of them ${before === 1 ? 'was' : 'were'} there already`}
            {hidden > 0 && `; ${plural(hidden, 'hidden file')} left out`}
          </Box>
          {action('Close', () => uploader.dismiss())}
        </>
      ) : (
        <>
          <State severity={phase === 'stopped' ? 'doubt' : 'fault'}>
            {phase === 'stopped' ? 'Stopped' : 'Some files did not arrive'}
          </State>
          <Box role={problem ? 'alert' : undefined} sx={{ color: 'text.secondary', overflowWrap: 'anywhere' }}>
            {problem
              ? `${problem.fact} ${problem.wayOut}`
              : `${printCount(arrived)} of ${plural(files, 'file')} are there.`}
          </Box>
          <Box sx={{ display: 'flex', gap: 1.5 }}>
            {action('Resume', onGoOn)}
            {action('Leave it', () => uploader.dismiss())}
          </Box>
        </>
      )}
    </Box>
  );
}

/** Where files and folders are dropped, or chosen, to bring them in. */
export function DropZone() {
  const { tokens } = useTheme();
  const state = useSyncExternalStore(uploader.subscribe, uploader.read);
  const [bringIn] = useBringInMutation();
  const [, setParams] = useSearchParams();
  const folderInput = useRef<HTMLInputElement>(null);
  const announce = (name: string, files: OfferedFile[]) => bringIn({ name, files }).unwrap();
  const take = (files: readonly FileWithPath[]) => {
    if (files.length === 0) return;
    const { name, dropped } = arrange(files);
    void uploader.bring(name, dropped, announce);
    // What arrives is shown as it comes.
    setParams(new URLSearchParams({ root: 'intake' }));
  };
  const busy = state.phase === 'sending' || state.phase === 'announcing';
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDrop: (files) => take(files),
    noClick: true,
    noKeyboard: true,
    disabled: busy,
  });
  return (
    <Box sx={{ p: '0 12px 16px 24px' }}>
      <Box
        {...getRootProps()}
        data-testid="drop"
        sx={{
          border: '1.5px dashed',
          borderColor: isDragActive ? tokens.act : tokens.ruleStrong,
          bgcolor: isDragActive ? tokens.actWash : 'transparent',
          borderRadius: '6px',
          p: 1.5,
          textAlign: 'center',
          minHeight: 132,
          display: 'grid',
          alignContent: 'center',
        }}
      >
        <input {...getInputProps()} aria-label="Files to upload" />
        <input
          ref={folderInput}
          type="file"
          aria-label="Folder to upload"
          hidden
          // Of all current browsers, though not of React's types.
          {...{ webkitdirectory: '' }}
          onChange={({ target }) => {
            take(
              Array.from(target.files ?? [], (file) =>
                Object.assign(file, { path: file.webkitRelativePath || file.name }),
              ),
            );
            target.value = '';
          }}
        />
        {state.phase === 'idle' ? (
          <>
            <Typography sx={{ fontSize: 13.5, color: 'text.secondary', mb: 0.5 }}>
              {isDragActive ? 'Drop to upload' : 'Drop files or a folder to upload them'}
            </Typography>
            <Box sx={{ display: 'flex', justifyContent: 'center' }}>
              <Button size="small" onClick={open} sx={{ px: 1, minWidth: 0 }}>
                Files
              </Button>
              <Button size="small" onClick={() => folderInput.current?.click()} sx={{ px: 1, minWidth: 0 }}>
                Folder
              </Button>
            </Box>
          </>
        ) : (
          <Progress state={state} onGoOn={() => uploader.again(announce)} />
        )}
      </Box>
    </Box>
  );
}
