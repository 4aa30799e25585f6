import type { ListedSource } from '@shale/contract';
import { Card } from '../../pieces/Card.tsx';
import { FindingList } from '../../pieces/FindingList.tsx';

/** What is worth knowing about a source, with the frames it touches one press away. */
export function FindingsCard({ source, onGo }: { source: ListedSource; onGo: (frame: number) => void }) {
  return (
    <Card title="Findings">
      <FindingList source={source} onGo={onGo} />
    </Card>
  );
}
