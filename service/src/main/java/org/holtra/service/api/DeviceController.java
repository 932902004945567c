package org.holtra.service.api;

import io.swagger.v3.oas.annotations.Parameter;
import java.security.Principal;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.holtra.core.expression.Scope;
import org.holtra.core.setup.Setup;
import org.holtra.service.devices.Device;
import org.holtra.service.devices.DeviceLives;
import org.holtra.service.devices.DeviceRegistry;
import org.holtra.service.devices.DeviceSearch;
import org.holtra.service.devices.DeviceTable;
import org.holtra.service.intake.Learning;
import org.holtra.service.intake.Rereading;
import org.holtra.service.reading.Readings;
import org.holtra.service.setups.Setups;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Keys of devices may hold any character, so they travel as a parameter. */
@RestController
@RequestMapping("/api/v1/devices")
class DeviceController {

    private static final String CSV = "text/csv;charset=UTF-8";
    private static final Duration CLAIMED_BACK = Duration.ofDays(30);

    /** How many devices a table changed and entered; none if anything in it is wrong. */
    record TableResult(int changed, int entered, List<DeviceTable.Misfit> misfits) {}

    private final Views views;
    private final DeviceRegistry devices;
    private final DeviceLives lives;
    private final Rereading rereading;
    private final InstantSource clock;

    /** How a device is shown. */
    @Component
    record Views(DeviceLives lives, Learning learning, Setups setups, DeviceSearch search) {

        DeviceView of(Device device, boolean withValues) {
            var life = lives.of(device.key());
            return DeviceView.of(device, life, learning.silentAfter(device.key(), life, setups.current()), withValues);
        }
    }

    DeviceController(Views views, DeviceRegistry devices, DeviceLives lives, Rereading rereading, InstantSource clock) {
        this.views = views;
        this.devices = devices;
        this.lives = lives;
        this.rereading = rereading;
        this.clock = clock;
    }

    /**
     * A page of devices.
     *
     * @param total how many fit
     * @param next to ask for what comes after; null at the end
     * @param models that there are
     */
    record DevicePage(List<DeviceView> devices, int total, String next, List<String> models) {}

    /** Devices in the order of their keys, page by page. */
    @GetMapping
    DevicePage list(
            @Parameter(description = "words that must each stand in the key, the model or a fact, as NAME=VALUE")
                    @RequestParam(required = false)
                    String search,
            @Parameter(description = "unheard, live, silent or barred") @RequestParam(required = false) String state,
            @RequestParam(required = false) String model,
            @Parameter(description = "the `next` of the page before, which is a key") @RequestParam(required = false)
                    String after,
            @RequestParam(defaultValue = "300") int limit) {
        DeviceSearch.Page page = views.search()
                .page(new DeviceSearch.Wanted(given(search), given(state), given(model)), after, Paging.checked(limit));
        return new DevicePage(
                page.devices().stream().map(device -> views.of(device, false)).toList(),
                page.total(),
                page.next(),
                List.copyOf(new TreeSet<>(views.setups().current().models().keySet())));
    }

    private static String given(String text) {
        return text == null || text.isBlank() ? null : text;
    }

    /** A device: what is known of it, its last values and how it stands. */
    @GetMapping("/one")
    DeviceView find(@RequestParam String key) {
        return views.of(known(key), true);
    }

    /** What was known of it before, the newest first, each until when and by whom it was replaced. */
    @GetMapping("/revisions")
    List<DeviceRegistry.Earlier> revisions(@RequestParam String key) {
        return devices.earlier(key);
    }

    /** Says what is known of a device, as a new revision; a device that has not been heard yet is entered. */
    @PutMapping("/one")
    DeviceView change(@RequestParam String key, @RequestBody Device.Knowledge known, Principal principal) {
        return views.of(devices.change(checked(key), checked(key, known), principal.getName()), true);
    }

    /** Takes it out of the registry. Its messages stay, and it comes back when it is heard where unknown devices are admitted. */
    @DeleteMapping("/one")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void forget(@RequestParam String key, Principal principal) {
        known(key);
        devices.forget(key, principal.getName());
        lives.forget(key);
    }

    /**
     * A lane, and whether it serves a device.
     *
     * @param whyNot in words; null if it does
     * @param handPicked whether the lane lists its devices
     */
    record Served(String lane, boolean serves, String whyNot, boolean handPicked, String state) {}

    /** Which lanes serve a device, going by what the lanes say of devices; what they pick of its messages is another matter. */
    @GetMapping("/lanes")
    List<Served> lanes(@RequestParam String key) {
        Device device = known(key);
        Setup setup = views.setups().current();
        Scope scope = new Scope(Map.of(), Map.of(), views.lives().scope(device, Readings.model(device, setup)));
        return setup.lanes().values().stream()
                .map(lane -> new Served(
                        lane.name(),
                        lane.selection().devices().serves(scope),
                        lane.selection().devices().whyNot(scope).orElse(null),
                        !lane.selection().devices().only().isEmpty(),
                        lane.closed() ? "closed" : "open"))
                .toList();
    }

    /** From now on its messages are kept and picked by no lane; or that ends. */
    @PostMapping("/bar")
    DeviceView bar(@RequestParam String key, @RequestParam boolean barred) {
        known(key);
        devices.bar(key, barred);
        return views.of(known(key), true);
    }

    /** Enters a device whose messages were kept unclaimed, and reads those of the last thirty days again. */
    @PostMapping("/claim")
    Rereading.Progress claim(@RequestParam String key, @RequestBody Device.Knowledge known, Principal principal) {
        devices.change(checked(key), checked(key, known), principal.getName());
        return rereading.start(Rereading.unreadOf(key, CLAIMED_BACK, clock.instant()), principal.getName());
    }

    /** What is known of all devices, as a table. */
    @GetMapping(value = "/table", produces = CSV)
    String exportTable() {
        return DeviceTable.write(devices.all());
    }

    /** Takes a table in; as a whole or, if anything in it is wrong, not at all. */
    @PostMapping(
            value = "/table",
            consumes = {"text/csv", "text/plain"})
    TableResult importTable(
            @RequestBody String csv, @RequestParam(defaultValue = "false") boolean dry, Principal principal) {
        DeviceTable.Table table = DeviceTable.read(csv, devices);
        int changed = 0;
        int entered = 0;
        if (table.misfits().isEmpty()) {
            for (DeviceTable.Row row : table.rows()) {
                var before = devices.find(row.key());
                if (before.isEmpty()) {
                    entered++;
                } else if (before.get().knowledge().equals(row.knowledge())) {
                    continue;
                } else {
                    changed++;
                }
                if (!dry) {
                    devices.change(row.key(), row.knowledge(), principal.getName());
                }
            }
        }
        return new TableResult(changed, entered, table.misfits());
    }

    private Device known(String key) {
        return devices.find(key).orElseThrow(() -> Problem.notFound("device", key));
    }

    private static String checked(String key) {
        if (key.isBlank() || key.length() > 200) {
            throw Problem.badRequest("key", "A device's key is a text of 1 to 200 characters.");
        }
        return key;
    }

    /** Where nothing is said of its channels, they stay. */
    private Device.Knowledge checked(String key, Device.Knowledge said) {
        Device.Knowledge known =
                said.after(devices.find(key).map(Device::knowledge).orElse(null));
        DeviceTable.check(known).ifPresent(misfit -> {
            throw Problem.badRequest(misfit.column(), misfit.what() + ".");
        });
        return known;
    }
}
