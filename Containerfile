# Builds Lee Shore and runs it as a user without rights. Its data is a volume of its own; everything else may be read-only:
#   podman build -t lee-shore .
#   podman run --read-only --tmpfs /tmp --volume lee-shore:/data --publish 4300:4300 --env LEESHORE_URL=https://watch.example lee-shore
FROM docker.io/library/debian:trixie-slim AS node
RUN apt-get update && apt-get install -y --no-install-recommends nodejs ca-certificates && rm -rf /var/lib/apt/lists/*

FROM node AS build
RUN apt-get update && apt-get install -y --no-install-recommends npm build-essential python3 libnode-dev
WORKDIR /app
COPY package.json package-lock.json .npmrc* ./
RUN npm ci --no-audit --no-fund
COPY . .
RUN npm run build && npm prune --omit=dev && rm -rf .next/cache

FROM node
ENV NODE_ENV=production HOST=0.0.0.0 PORT=4300 LEESHORE_DATA_DIR=/data
WORKDIR /app
COPY --from=build /app/package.json /app/next.config.mjs ./
COPY --from=build /app/node_modules node_modules
COPY --from=build /app/scripts scripts
COPY --from=build /app/dist dist
COPY --from=build /app/.next .next
# Nothing of it belongs to the user that runs it.
RUN useradd --system --uid 10001 --no-create-home leeshore && install -d -o leeshore -g leeshore -m 700 /data
USER leeshore
VOLUME /data
EXPOSE 4300
HEALTHCHECK --interval=30s --timeout=5s --start-period=60s CMD ["node", "-e", "fetch(`http://127.0.0.1:${process.env.PORT}/api/v1/health`).then((answer) => process.exit(answer.ok ? 0 : 1), () => process.exit(1))"]
CMD ["node", "scripts/start.mjs"]
