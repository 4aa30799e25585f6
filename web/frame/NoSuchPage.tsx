import Button from '@mui/material/Button';
import { Link, useLocation } from 'react-router';
import { EmptyPage } from '../pieces/Notes.tsx';

/** An address that names no page. */
export function NoSuchPage() {
  const { pathname } = useLocation();
  return (
    <EmptyPage
      title="No page has this address"
      action={
        <Button component={Link} to="/intake" variant="contained">
          Go to Intake
        </Button>
      }
    >
      Shale does not know {pathname}. It may belong to another version, or be cut off.
    </EmptyPage>
  );
}
