// Who must not give the signature that a part's newest revision waits for; the
// shop refuses it as well.
import { api } from "../../app/api";
import { useSession } from "../../app/session";
import type { Schemas } from "../../contract/types";

/** Says of a part why the person at the screen does not sign it; empty: for who they are nothing speaks against it. */
export function useMayNotSign() {
  const { person } = useSession();
  const settings = api.useQuery("get", "/api/settings");
  return (part: Schemas["PartLine"]) => {
    if (part.wroteId === person.id) return "You wrote it: a second person has to check and sign.";
    if (part.waits === "release" && part.checkedId === person.id && settings.data?.settings.oneReleases !== true)
      return "You checked it: somebody else has to release it.";
    return "";
  };
}
