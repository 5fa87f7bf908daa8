"""Recording what a motor sounds like in the page, and keeping a file."""

import io

import numpy as np
import pytest
import soundfile
from playwright.sync_api import expect

TAG = "VS-02"


@pytest.fixture
def heard_at(served):
    """Opens the noise step of a motor on the bench."""

    def open_it(page):
        page.goto(f"/motors/{TAG}")
        page.get_by_role("button", name="Check it").or_(page.get_by_role("button", name="Back to the bench")).click()
        page.locator("#rig").fill("green bench")
        page.keyboard.press("Control+Enter")
        expect(page.locator("#bench")).not_to_have_attribute("data-step", "setup")
        page.goto(f"{page.url.split('?')[0]}?step=noise")
        page.get_by_text("Recordings (0)").click()

    return open_it


def loudest_hz(flac):
    samples, rate = soundfile.read(io.BytesIO(flac))
    power = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    return np.fft.rfftfreq(len(samples), 1 / rate)[np.argmax(power)], len(samples) / rate


def tone(file, hertz, seconds=8.0, rate=48_000):
    soundfile.write(file, 0.3 * np.sin(2 * np.pi * hertz * np.arange(int(seconds * rate)) / rate), rate)
    return file


def kept_sound(page):
    return page.request.get(page.locator("audio").first.get_attribute("src")).body()


@pytest.mark.long
def test_the_page_records_what_the_microphone_hears_by_one_key(with_devices, heard_at, tmp_path):
    page = with_devices(f"--use-file-for-fake-audio-capture={tone(tmp_path / 'seven.wav', 7000)}")
    heard_at(page)
    page.locator("#background").fill("52")
    page.get_by_label("what ran").fill("half, 10 cm, phone")
    page.get_by_role("button", name="Record 5 s").click()
    expect(page.get_by_text("half, 10 cm, phone")).to_be_visible(timeout=40_000)
    hertz, seconds = loudest_hz(kept_sound(page))
    assert hertz == pytest.approx(7000, rel=0.01)
    assert 4.4 <= seconds <= 10  # a busy machine hears a little longer
    expect(page.locator("#background")).to_have_value("52")
    expect(page.get_by_role("img", name="third octaves")).to_be_visible()


@pytest.mark.long
def test_m_records_although_the_recordings_are_folded(with_devices, heard_at, tmp_path):
    page = with_devices(f"--use-file-for-fake-audio-capture={tone(tmp_path / 'two.wav', 2000)}")
    heard_at(page)
    page.get_by_text("Recordings (0)").click()
    page.locator("body").press("m")
    expect(page.get_by_text("s left")).to_be_visible()
    expect(page.locator("audio")).to_have_count(1, timeout=40_000)


@pytest.mark.long
def test_without_tls_the_microphone_is_not_asked_for_and_a_file_is_kept(own_page, heard_at, tmp_path):
    page = own_page
    page.add_init_script("Object.defineProperty(window, 'isSecureContext', {value: false})")
    heard_at(page)
    expect(page.get_by_role("button", name="Record 5 s")).to_be_hidden()
    expect(page.get_by_text("The microphone is given to encrypted pages only")).to_be_visible()
    page.get_by_label("a recording from a file").set_input_files(tone(tmp_path / "three.ogg", 3000, 2.0))
    expect(page.locator("[name=rate_hz]")).to_have_value("48000")  # what only a browser reads, read by it
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("audio")).to_have_count(1)
    assert loudest_hz(kept_sound(page))[0] == pytest.approx(3000, rel=0.01)
    page.goto(f"/motors/{TAG}/book")
    page.get_by_text("Correct, or take back").click()
    page.get_by_label("what ran, where it stood, what recorded it").fill("half, on the stand")
    page.get_by_role("button", name="Correct").click()
    expect(page.locator("main")).to_contain_text("noise, half, on the stand,")
    page.get_by_text("Correct, or take back").click()
    page.get_by_role("button", name="take back: this recording").click()
    expect(page.locator("audio")).to_have_count(0)


def test_what_is_no_recording_is_said_beside_it(own_page, heard_at):
    page = own_page
    heard_at(page)
    chosen = {"name": "a.wav", "mimeType": "audio/wav", "buffer": b"no sound"}
    page.get_by_label("a recording from a file").set_input_files(chosen)
    page.get_by_role("button", name="Keep it").click()
    expect(page.locator("#wrong-sound")).to_have_text("this is no sound that can be read: WAV or FLAC")
