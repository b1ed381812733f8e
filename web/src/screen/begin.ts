import { api } from "../api/client";
import { keys, renew } from "../api/queries";
import { say } from "../state/notices";
import { goTo, openShot } from "../state/ui";

/** Makes an empty shot, of a project or of a new one, and opens it where one begins. */
export async function beginEmpty(project: string, name: string): Promise<string | null> {
  try {
    const made = await api.newShot(project, name);
    await renew(keys.state);
    openShot(made.shot);
    goTo("Arrange");
    return made.shot;
  } catch (e) {
    say((e as Error).message);
    return null;
  }
}
