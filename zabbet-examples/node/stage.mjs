// The whole client: a stage of `zabbet serve`, in a few lines of fetch.
export async function openStage(url = process.env.ZABBET_URL, token = process.env.ZABBET_TOKEN) {
  const ask = async (method, path, body, type = 'application/json') => {
    const text = body === undefined || typeof body === 'string' ? body : JSON.stringify(body);
    const headers = { Authorization: `Bearer ${token}`, ...(text === undefined ? {} : { 'Content-Type': type }) };
    const answer = await fetch(url + path, { method, headers, body: text });
    const content = answer.status === 204 ? {} : await answer.json();
    if (!answer.ok) throw new Error(content.detail);
    return content;
  };
  const { id, url: database } = await ask('POST', '/stages');
  const stage = (method, path, body, type) => ask(method, `/stages/${id}${path}`, body, type);
  return {
    database,
    load: document => stage('POST', '/load', document, 'application/yaml'),
    rewind: to => stage('POST', '/rewind', to ? { to } : {}),
    point: name => stage('POST', '/points', { name }),
    async act(work) {
      await stage('POST', '/act');
      await work();
      return stage('POST', '/act/end');
    },
    async expect(document) {
      const answer = await stage('POST', '/expect', document, 'application/yaml');
      if (!answer.holds) throw new Error(answer.report);
    },
    count: (table, ...where) => stage('GET',
      `/rows?${new URLSearchParams([['table', table], ['count', true], ...where.map(one => ['where', one])])}`)
      .then(answer => answer.count),
    close: () => stage('DELETE', ''),
  };
}
