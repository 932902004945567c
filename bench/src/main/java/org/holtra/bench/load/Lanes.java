package org.holtra.bench.load;

/** Setups under load. */
final class Lanes {

    private Lanes() {}

    static String healthy(String url, int lanes) {
        StringBuilder yaml = new StringBuilder("""
                inlets:
                  bench: {kind: http, at: {path: bench, credential: bench}, device: data.id}
                outlets:
                """);
        for (int i = 0; i < lanes; i++) {
            yaml.append("  out-%d: {kind: http, to: {url: \"%s/o%d\", concurrency: %d}}%n"
                    .formatted(i, url, i, lanes == 1 ? 32 : 8));
        }
        yaml.append("lanes:\n");
        for (int i = 0; i < lanes; i++) {
            yaml.append("  lane-%d: {inlets: [bench], outlet: out-%d}%n".formatted(i, i));
        }
        return yaml.toString();
    }

    /** One healthy lane, and so many to outlets where nobody answers. */
    static String dead(String url, int lanes) {
        StringBuilder yaml = new StringBuilder(healthy(url, 1).replace("lanes:\n", ""));
        String lane = yaml.substring(yaml.indexOf("  lane-0"));
        yaml.setLength(yaml.length() - lane.length());
        for (int i = 0; i < lanes; i++) {
            yaml.append("  dead-%d: {kind: http, to: {url: \"http://127.0.0.1:9/\", timeout: 2s}}%n".formatted(i));
        }
        yaml.insert(
                yaml.indexOf("outlets:"),
                "  other: {kind: http, at: {path: other, credential: bench}, device: data.id}\n");
        yaml.append("lanes:\n").append(lane);
        for (int i = 0; i < lanes; i++) {
            yaml.append("  dead-%d: {inlets: [other], outlet: dead-%d}%n".formatted(i, i));
        }
        return yaml.toString();
    }
}
