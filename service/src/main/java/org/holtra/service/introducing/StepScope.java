package org.holtra.service.introducing;

import java.util.List;
import java.util.Map;
import org.holtra.core.expression.Scope;
import org.holtra.core.introduction.Recipe;
import org.holtra.core.setup.Model;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.reading.Readings;
import org.springframework.stereotype.Component;

/** What the expressions of a recipe see of a device. */
@Component
class StepScope {

    private static final Map<String, Object> NO_MODEL = Map.of("fields", List.of(), "points", List.of());

    private final DeviceRegistry devices;
    private final DeviceLives lives;

    StepScope(DeviceRegistry devices, DeviceLives lives) {
        this.devices = devices;
        this.lives = lives;
    }

    /** Where no device is meant, and none of its model. */
    static Scope ofNobody(Map<String, ?> device) {
        return new Scope(Map.of(), Map.of(), device).with(Recipe.MODEL, NO_MODEL);
    }

    /** Of a device that is no longer in the registry only its key. */
    Scope of(String key, Setup setup) {
        Device device = devices.find(key).orElse(null);
        Model model = Readings.model(device, setup);
        Map<String, Object> seen = device == null ? Map.of("key", key) : lives.scope(device, model);
        return new Scope(Map.of(), Map.of(), seen).with(Recipe.MODEL, model == null ? NO_MODEL : model.seen());
    }
}
