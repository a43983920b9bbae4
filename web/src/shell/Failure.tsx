import { useEffect } from 'react';
import { Button, Result } from 'antd';
import { useRouteError } from 'react-router';
import { reportFault } from '../api/reportFault.ts';

/** What stands in for a screen that broke: nothing saved is lost by it. */
export function Failure() {
  const error = useRouteError();
  useEffect(() => reportFault('screen', error), [error]);
  return (
    <Result
      status="warning"
      title="This screen ran into a fault"
      subTitle={`Everything that was saved is unharmed. Reload the page to go on. (${error instanceof Error ? error.message : 'unknown fault'})`}
      extra={
        <>
          <Button type="primary" onClick={() => location.reload()}>
            Reload
          </Button>
          <Button href="/">All songs</Button>
        </>
      }
    />
  );
}
