package org.holtra.cli;

import java.util.LinkedHashMap;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
        name = "replay",
        mixinStandardHelpOptions = true,
        description = {
            "Delivers stored messages of a lane again. Without --go, only counts them.",
            "Its progress: holtra job list"
        })
final class ReplayCommand implements Callable<Integer> {

    @Parameters(paramLabel = "LANE", description = "The lane that shapes them.")
    private String lane;

    @Mixin
    private Stretch stretch;

    @Option(names = "--device", description = "Those of this device.")
    private String device;

    @Option(names = "--where", description = "Those that meet this condition.")
    private String where;

    @Option(names = "--to", description = "To this outlet instead of the lane's own.")
    private String outlet;

    @Option(names = "--per-second", description = "At most this many per second.")
    private Double perSecond;

    @Option(
            names = "--same-key",
            description =
                    "Use the idempotency keys of the first deliveries: receivers that have them drop the doubles.")
    private boolean sameKey;

    @Option(names = "--unrouted", description = "Include messages the lane did not take on arrival.")
    private boolean unrouted;

    @Option(names = "--go", description = "Deliver them.")
    private boolean go;

    @Mixin
    private Connection connection;

    @Mixin
    private Output output;

    @Override
    public Integer call() {
        Map<String, Object> terms = new LinkedHashMap<>();
        terms.put("lane", lane);
        terms.put("outlet", outlet);
        terms.put("from", stretch.from());
        terms.put("to", stretch.until());
        terms.put("device", device);
        terms.put("where", where);
        terms.put("perSecond", perSecond);
        terms.put("sameKey", sameKey);
        terms.put("unrouted", unrouted);
        JsonNode body = Api.mapper().valueToTree(terms);
        JsonNode answer = connection.api().post(go ? "/api/v1/replays" : "/api/v1/replays/preview", body);
        if (!output.asJson(answer)) {
            tell(answer);
        }
        return 0;
    }

    private void tell(JsonNode answer) {
        if (go) {
            output.line("Replay " + answer.path("name").asString() + " delivers "
                    + answer.path("expected").asLong() + " again.");
            return;
        }
        long deliveries = answer.path("deliveries").asLong();
        if (deliveries == 0) {
            output.line("No message fits this. Nothing would be sent.");
            return;
        }
        output.line(deliveries + " deliveries of " + answer.path("messages").asLong() + " messages, from "
                + Words.dateTime(answer.path("first")) + " to " + Words.dateTime(answer.path("last"))
                + ". Nothing was sent; --go delivers them.");
        if (!answer.path("note").isNull()) {
            output.line(answer.path("note").asString());
        }
    }
}
