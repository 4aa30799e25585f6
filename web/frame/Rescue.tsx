import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { Component, type ReactNode } from 'react';
import { problemOf } from '@shale/core';
import { ProblemNote } from '../pieces/Notes.tsx';
import { pageNotLoaded } from './pages.tsx';

interface Props {
  /** Another page begins anew. */
  page: string;
  children: ReactNode;
}

/** Keeps a fault of one page from taking the others along: it says what happened, and the rest goes on. */
export class Rescue extends Component<Props, { error: unknown; page: string }> {
  override state = { error: undefined, page: this.props.page };

  static getDerivedStateFromError(error: unknown) {
    return { error };
  }

  static getDerivedStateFromProps({ page }: Props, state: { page: string }) {
    return page === state.page ? null : { error: undefined, page };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (error === undefined) return this.props.children;
    const problem = problemOf(error);
    if (problem.code === pageNotLoaded)
      return (
        <Box sx={{ p: 3 }}>
          <ProblemNote problem={problem} action={<Button onClick={() => location.reload()}>Reload</Button>} />
        </Box>
      );
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote
          problem={{ ...problem, wayOut: 'This is a fault in Shale. Nothing on disk was touched.' }}
          action={<Button onClick={() => this.setState({ error: undefined })}>Try again</Button>}
        />
      </Box>
    );
  }
}
