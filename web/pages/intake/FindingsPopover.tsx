import Box from '@mui/material/Box';
import Popover from '@mui/material/Popover';
import Typography from '@mui/material/Typography';
import type { ListedSource } from '@shale/contract';
import { api } from '../../api/api.ts';
import { FindingList } from '../../pieces/FindingList.tsx';
import { frameChosen } from '../../stage/state.ts';
import { useAppDispatch } from '../../state/store.ts';

interface PopoverProps {
  /** Whose findings, and beside what they are shown. */
  looking: { source: ListedSource; at: HTMLElement } | null;
  onClose: () => void;
  onOpen: (id: string) => void;
}

/** What is wrong with a source, beside its row. */
export function FindingsPopover({ looking, onClose, onOpen }: PopoverProps) {
  const dispatch = useAppDispatch();
  return (
    <Popover
      open={looking !== null}
      anchorEl={looking?.at}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      transformOrigin={{ vertical: 'top', horizontal: 'right' }}
    >
      {looking && (
        <Box
          role="dialog"
          aria-label={`Findings of ${looking.source.name}`}
          sx={{ width: 420, p: 2, maxHeight: 480, overflowY: 'auto' }}
        >
          <Typography className="mono" noWrap sx={{ fontWeight: 600, mb: 1.25 }}>
            {looking.source.name}
          </Typography>
          <FreshFindings
            source={looking.source}
            onGo={(frame) => {
              dispatch(frameChosen({ source: looking.source.id, frame }));
              onOpen(looking.source.id);
            }}
          />
        </Box>
      )}
    </Popover>
  );
}

/** The findings as they are now, also after one was set aside. */
function FreshFindings({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  const { data = source } = api.endpoints.source.useQuery(source.id);
  return <FindingList source={data} onGo={onGo} />;
}
