package org.holtra.service.settings;

import java.nio.file.Path;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;

/**
 * What an installation sets.
 *
 * @param keyFile the file with the key that seals credentials; made if it does not exist
 * @param memoryMegabytes how much content of deliveries may wait in memory; what is more waits in the database only
 * @param welcomeFile where the first start writes the sign-in and the API key it made; null to tell the sign-in in the log
 */
@ConfigurationProperties("holtra")
public record HoltraSettings(
        @DefaultValue("holtra.key") Path keyFile,
        @DefaultValue("64") int memoryMegabytes,
        Path welcomeFile) {}
