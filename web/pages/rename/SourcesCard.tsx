import Close from '@mui/icons-material/Close';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import Typography from '@mui/material/Typography';
import type { RenameView } from '@shale/contract';
import { Card } from '../../pieces/Card.tsx';
import { SortableList } from '../../pieces/SortableList.tsx';
import { plural, printCount } from '../../pieces/words.ts';

/** Sources that are listed; more are named in numbers. */
const listed = 60;

interface Props {
  plan: RenameView;
  sources: readonly string[];
  onSources: (sources: string[]) => void;
}

/** Every source with what becomes of it, in the order in which they are counted and joined. */
export function SourcesCard({ plan, sources, onSources }: Props) {
  const shown = plan.groups.slice(0, listed);
  const rest = sources.slice(listed);
  return (
    <Card title={`${plural(sources.length, 'source')}, in their order`} sx={{ flex: 'none' }}>
      <SortableList
        label="Sources in their order"
        items={shown}
        idOf={({ id }) => id}
        wordsOf={({ name }) => name}
        onOrder={(groups) => onSources([...groups.map(({ id }) => id), ...rest])}
      >
        {({ id, name, reads, count, changed }) => (
          <Box data-testid="naming-source" sx={{ display: 'flex', alignItems: 'start', gap: 0.5, pb: 0.75 }}>
            <Box sx={{ minWidth: 0, flex: 1, pt: '4px' }}>
              <Typography noWrap className="mono" title={name} sx={{ fontSize: 12.5 }}>
                {name}
              </Typography>
              <Typography
                noWrap
                className="mono"
                title={reads}
                sx={{
                  fontSize: 12.5,
                  fontWeight: changed > 0 ? 600 : 400,
                  color: changed > 0 ? 'primary.main' : 'text.secondary',
                }}
              >
                {changed > 0 ? reads : 'as it is'}
              </Typography>
            </Box>
            <Typography sx={{ fontSize: 12.5, color: 'text.secondary', pt: '5px' }}>{printCount(count)}</Typography>
            <IconButton
              aria-label={`Leave out ${name}`}
              onClick={() => onSources(sources.filter((one) => one !== id))}
              sx={{ p: 0.25, mt: '3px' }}
            >
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </Box>
        )}
      </SortableList>
      {rest.length > 0 && (
        <Typography sx={{ fontSize: 13, color: 'text.secondary' }}>
          and {printCount(rest.length)} more after these
        </Typography>
      )}
    </Card>
  );
}
