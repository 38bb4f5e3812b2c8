// What stands in place of a page that could not be loaded or drawn. The route
// above goes on working, and what was typed is kept on the device.
import { ErrorBoundary, type FallbackProps } from "react-error-boundary";
import type { ReactNode } from "react";
import { useLocation } from "react-router";
import { Big, Button, Page, Row } from "../ui/parts";

function PageFailed({ error }: FallbackProps) {
  return (
    <Page>
      <Big>This page could not be shown.</Big>
      <p role="alert" style={{ fontSize: 18, maxWidth: "60ch" }}>
        Without a network, or after the server was renewed, it has to be loaded again. Nothing that was stored is lost.
      </p>
      <Row style={{ marginTop: 14 }}>
        <Button $bench onPress={() => window.location.reload()}>
          Reload
        </Button>
      </Row>
      <small>{error instanceof Error ? error.message : ""}</small>
    </Page>
  );
}

/** Catches what a page throws; another page begins anew. */
export function Catching({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return (
    <ErrorBoundary FallbackComponent={PageFailed} resetKeys={[pathname]}>
      {children}
    </ErrorBoundary>
  );
}
