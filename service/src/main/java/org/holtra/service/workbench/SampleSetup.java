package org.holtra.service.workbench;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.holtra.core.setup.Setup;
import org.holtra.core.setup.document.SetupEdit;
import org.holtra.core.text.ClassPathText;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.setups.SetupParts;
import org.holtra.service.setups.SetupRefused;
import org.holtra.service.setups.Setups;
import org.springframework.stereotype.Component;

/**
 * A small setup with made-up stations, for an instance that has nothing yet. It is added to the setup there is, and taken away
 * again with the devices that it brought; its messages go with the others, when they are old.
 */
@Component
public class SampleSetup {

    private final SetupEdit sample = new SetupEdit(ClassPathText.beside(SampleSetup.class, "sample.yaml"));
    private final SetupParts parts;
    private final DeviceRegistry devices;
    private final DeviceLives lives;

    SampleSetup(SetupParts parts, DeviceRegistry devices, DeviceLives lives) {
        this.parts = parts;
        this.devices = devices;
        this.lives = lives;
    }

    /** A part of the setup. */
    private record Named(String thing, String name) {}

    private Stream<Named> all() {
        return SetupParts.THINGS.stream()
                .flatMap(thing -> sample.names(thing).stream().map(name -> new Named(thing, name)));
    }

    /** The names of its parts that are in the setup, such as {@code inlets/sample-stations}. */
    public List<String> loaded() {
        return all().filter(part -> parts.names(part.thing).contains(part.name))
                .map(part -> part.thing + "/" + part.name)
                .toList();
    }

    /** Adds it to the setup; parts of it that are there already stay as they are. */
    public Setup load(String by) throws SetupRefused {
        return parts.together(
                edit -> {
                    SetupEdit next = edit;
                    for (Named part : all().toList()) {
                        if (!next.names(part.thing).contains(part.name)) {
                            Map<String, Object> content =
                                    sample.content(part.thing, part.name).orElseThrow();
                            next = new SetupEdit(next.with(part.thing, part.name, content));
                        }
                    }
                    return next;
                },
                new SetupParts.Change(by, "sample loaded", null, Setups.Waiting.REFUSE));
    }

    /**
     * Takes it away, with its devices; what its lanes owe is dropped.
     *
     * @throws SetupRefused if something else in the setup could not be without it
     */
    public Setup remove(String by) throws SetupRefused {
        List<String> models = sample.names("models");
        Setup setup = parts.together(
                edit -> {
                    SetupEdit next = edit;
                    // What depends on others goes before them.
                    for (Named part : new ArrayList<>(all().toList()).reversed()) {
                        if (next.names(part.thing).contains(part.name)) {
                            next = new SetupEdit(next.without(part.thing, part.name));
                        }
                    }
                    return next;
                },
                new SetupParts.Change(by, "sample removed", null, Setups.Waiting.DROP));
        devices.all().stream()
                .filter(device -> models.contains(device.model()))
                .map(Device::key)
                .forEach(key -> {
                    devices.forget(key, by);
                    lives.forget(key);
                });
        return setup;
    }
}
