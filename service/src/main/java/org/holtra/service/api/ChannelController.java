package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import org.holtra.core.reading.content.UnreadableContent;
import org.holtra.core.setup.Channel;
import org.holtra.core.setup.compile.ChannelCheck;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.workbench.DeviceChannels;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What devices send, and the fields that are made of it. */
@RestController
@RequestMapping("/api/v1/devices/channels")
class ChannelController {

    private static final int MOST_DEVICES = 5_000;

    /** The channels that devices get as their own; none for those of their models. */
    record Wiring(List<String> devices, List<Channel> channels) {}

    /** How many devices were changed. */
    record Wired(int changed) {}

    private final DeviceRegistry devices;
    private final DeviceChannels channels;

    ChannelController(DeviceRegistry devices, DeviceChannels channels) {
        this.devices = devices;
        this.channels = channels;
    }

    /** What a device really sends, as of its last reading, and the channels that make fields of it. */
    @GetMapping
    DeviceChannels.Sent sent(@RequestParam String key) {
        return channels.sent(known(key));
    }

    /** What channels would make of the last message of a device. Nothing is changed. */
    @PostMapping("/preview")
    List<DeviceChannels.Made> preview(@RequestParam String key, @RequestBody List<Channel> wanted) {
        checked(wanted);
        try {
            return channels.made(known(key), wanted);
        } catch (UnreadableContent e) {
            throw new Problem(
                    HttpStatus.UNPROCESSABLE_CONTENT, "There is no preview", e.getMessage() + ".", java.util.Map.of());
        }
    }

    /** Gives devices channels of their own, each as a new revision of what is known of it. */
    @PostMapping
    Wired wire(@RequestBody Wiring wiring, Principal principal) {
        if (wiring.devices().isEmpty() || wiring.devices().size() > MOST_DEVICES) {
            throw Problem.badRequest("devices", "Say which devices: 1 to " + MOST_DEVICES + " of them.");
        }
        checked(wiring.channels());
        List<Device> known =
                wiring.devices().stream().distinct().map(this::known).toList();
        int changed = 0;
        for (Device device : known) {
            if (!device.knowledge().channels().equals(wiring.channels())) {
                devices.change(device.key(), device.knowledge().with(wiring.channels()), principal.getName());
                changed++;
            }
        }
        return new Wired(changed);
    }

    private Device known(String key) {
        return devices.find(key).orElseThrow(() -> Problem.notFound("device", key));
    }

    private static void checked(List<Channel> channels) {
        ChannelCheck.problems(channels).stream().findFirst().ifPresent(problem -> {
            throw Problem.badRequest(
                    "channels/" + problem.number(), "Channel " + (problem.number() + 1) + ": " + problem.what() + ".");
        });
    }
}
