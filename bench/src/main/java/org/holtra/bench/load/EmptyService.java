package org.holtra.bench.load;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;

/** Holtra's starters and settings, with nothing of Holtra: what a start costs at least. */
@SpringBootApplication(scanBasePackages = "org.holtra.bench.nothing")
public class EmptyService {

    public static void main(String[] arguments) {
        SpringApplication.run(EmptyService.class, arguments);
    }
}
