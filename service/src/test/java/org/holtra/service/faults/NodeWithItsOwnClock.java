package org.holtra.service.faults;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import org.holtra.service.HoltraApplication;
import org.holtra.service.cluster.MachineClock;
import org.springframework.boot.SpringApplication;

/** The service on a machine whose clock is as many seconds apart as a file says at the moment. */
public final class NodeWithItsOwnClock {

    static final String CLOCK = "TEST_CLOCK";

    private NodeWithItsOwnClock() {}

    public static void main(String[] args) {
        Path file = Path.of(System.getenv(CLOCK));
        SpringApplication application = new SpringApplication(HoltraApplication.class);
        application.addInitializers(context -> context.getBeanFactory().registerSingleton("machineClock", (MachineClock)
                () -> Instant.now().plusSeconds(apart(file))));
        application.run(args);
    }

    private static long apart(Path file) {
        try {
            return Long.parseLong(Files.readString(file).strip());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
