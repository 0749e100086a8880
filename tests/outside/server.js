// A SCIM server made of a library that is not ours: what it keeps is in memory, in the library's own form.
// Membership is kept in groups only. Usage: node server.js PORT TOKEN GROUP...
import { randomUUID } from 'node:crypto';
import express from 'express';
import SCIMMY from 'scimmy';
import SCIMMYRouters from 'scimmy-routers';

const [port, token, ...groups] = process.argv.slice(2);
const kept = { User: new Map(), Group: new Map() };
for (const displayName of groups) {
  const id = randomUUID();
  kept.Group.set(id, { id, displayName, members: [] });
}

const store = (kind, unique) => ({
  ingress(resource, data) {
    const id = resource.id ?? randomUUID();
    if (resource.id && !kept[kind].has(id)) throw new SCIMMY.Types.Error(404, null, `No ${id}`);
    const taken = [...kept[kind].values()].some(
      (one) => one.id !== id && one[unique].toLowerCase() === String(data[unique]).toLowerCase()
    );
    if (taken) throw new SCIMMY.Types.Error(409, 'uniqueness', `${data[unique]} is taken`);
    const made = { ...JSON.parse(JSON.stringify(data)), id };
    kept[kind].set(id, made);
    return made;
  },
  egress(resource) {
    if (!resource.id) return [...kept[kind].values()];
    const found = kept[kind].get(resource.id);
    if (!found) throw new SCIMMY.Types.Error(404, null, `No ${resource.id}`);
    return found;
  },
  degress(resource) {
    if (!kept[kind].delete(resource.id)) throw new SCIMMY.Types.Error(404, null, `No ${resource.id}`);
    for (const group of kept.Group.values())
      group.members = (group.members ?? []).filter((m) => m.value !== resource.id);
  }
});

SCIMMY.Resources.declare(SCIMMY.Resources.User, store('User', 'userName'));
SCIMMY.Resources.declare(SCIMMY.Resources.Group, store('Group', 'displayName'));
SCIMMY.Resources.User.extend(SCIMMY.Schemas.EnterpriseUser, false);

const app = express();
app.use(
  '/scim/v2',
  new SCIMMYRouters({
    type: 'bearer',
    handler: (request) => {
      if (request.header('Authorization') !== `Bearer ${token}`) throw new Error('Who are you?');
      return 'yugum';
    }
  })
);
app.listen(Number(port), '127.0.0.1');
process.stdin.resume().on('end', () => process.exit());
