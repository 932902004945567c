package org.holtra.service.api;

import java.security.Principal;
import java.util.List;
import java.util.Map;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceRegistry;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

@RestController
@RequestMapping("/api/devices")
class DeviceController {

    /** @param facts what people know of the device; they replace those there were */
    record Known(String model, Map<String, Object> facts) {}

    private final DeviceRegistry devices;

    DeviceController(DeviceRegistry devices) {
        this.devices = devices;
    }

    @GetMapping
    List<Device> list() {
        return devices.all();
    }

    /** One device. Keys may hold any character, so they travel as a parameter. */
    @GetMapping("/one")
    Device one(@RequestParam String key) {
        return devices.find(key).orElseThrow(() -> Problem.notFound("device", key));
    }

    /** Says what is known of a device, as a new revision; a device that has not been heard yet is entered. */
    @PutMapping("/one")
    Device change(@RequestParam String key, @RequestBody Known known, Principal principal) {
        if (key.isBlank() || key.length() > 200) {
            throw Problem.badRequest("key", "A device's key is a text of 1 to 200 characters.");
        }
        return devices.change(
                key, known.model(), known.facts() == null ? Map.of() : known.facts(), principal.getName());
    }
}
