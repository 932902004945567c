package org.holtra.service.support;

import java.util.Map;
import org.holtra.service.settings.HoltraSettings;
import org.springframework.boot.context.properties.bind.Binder;
import org.springframework.boot.context.properties.source.MapConfigurationPropertySource;

/** The settings of an installation that says nothing, or only this. */
public final class TestSettings {

    private TestSettings() {}

    /** @param said by name, such as {@code memory-megabytes} */
    public static HoltraSettings with(String name, Object said) {
        return new Binder(new MapConfigurationPropertySource(Map.of("holtra." + name, said)))
                .bindOrCreate("holtra", HoltraSettings.class);
    }
}
