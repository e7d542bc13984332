"""Names of months and weekdays in the Unicode CLDR's common locales, folded (small letters, no accents, no dots).

Taken from the library's own tables, which take longer to load than a file to read; a test holds these against them.
"""

from __future__ import annotations

_MONTHS = (
    """
    ean eanair ene enero gen gener gennaio ian ianuarie ion ionawr jaan jaanuar jan janar janeiro jannar januar
    januara januari januarie january janv janvaris janvier led leden ledna oca ocak saus sausio sausis sij
    sijecanj sijecnja sty styczen stycznia tammi tammikuu tammikuuta urt urtarrila xan xaneiro ιαν ιανουαριοσ
    ιανουαριου сту студзень студзеня січ січень січня янв январь января яну януари јан јануар јануари ינואר ינו׳
    يناير ژانویه जनवरी जन॰ জানু জানুযারী ม.ค มกราคม
    """,
    """
    chw chwef chwefror feabh feabhra feb febbraio febr febreiro febrer febrero februar februara februari
    februarie februaris february fev fevereiro fevr fevrier fra frar helmi helmikuu helmikuuta lut lutego luty
    ots otsaila shk shkurt sub subat uno unor unora vas vasario vasaris veebr veebruar velj veljaca veljace φεβ
    φεβρουαριοσ φεβρουαριου лют лютага лютии лютого люты феб фебруар фев февр февраль февраля февруари פברואר
    פבר׳ فبراير فوریه फरवरी फर॰ ফেব ফেবরুযারী ก.พ กมภาพันธ์
    """,
    """
    bre brezen brezna kov kovas kovo maalis maaliskuu maaliskuuta maart mac machi maerz mar marc marca march
    marcius marco marec maret mars mart marta martie marts martxoa marz marzec marzo marzu maw mawrth mrt mrz
    ozu ozujak ozujka μαρ μαρτιοσ μαρτιου бер березень березня мар март марта сак сакавік сакавіка מרץ مارس मारच
    মারচ มี.ค มีนาคม
    """,
    """
    abr abril aib aibrean api apirila apr april aprila aprile aprili aprilie aprilis aprill avr avril bal
    balandis balandzio dub duben dubna d’abr d’abril ebr ebrill huhti huhtikuu huhtikuuta kwi kwiecien kwietnia
    nis nisan pri prill tra travanj travnja απρ απριλιοσ απριλιου апр апрель апреля април квіт квітень квітня
    кра красавік красавіка אפריל אפר׳ ابريل اوریل अपरैल এপরি এপরিল เม.ย เมษายน
    """,
    """
    beal bealtaine geg geguze geguzes kve kveten kvetna mag maggio mai maiatza maig maijs maio maj maja majus
    may mayo mayıs mei mej mejju svi svibanj svibnja touko toukokuu toukokuuta μαι μαιοσ μαιου маи мая мај трав
    травень травня מאי مايو مه मई মে พ.ค พฤษภาคม
    """,
    """
    birz birzelio birzelis cerven cervna cvn cze czerwca czerwiec eka ekaina giu giugno gun gunju haz haziran
    iun iunie juin jun juna june junho juni junie junij junijs junio junius juny juuni kesa kesakuu kesakuuta
    lip lipanj lipnja meh mehefin meith meitheamh qer qershor xuno ιουν ιουνιοσ ιουνιου июн июнь июня черв
    червень червня чэр чэрвень чэрвеня юни јун јуни יוני يونيو ژوين जून জুন มิ.ย มิถนายน
    """,
    """
    cervence cervenec cvc gor gorff gorffennaf heina heinakuu heinakuuta iuil iul iulie juil juillet jul jula
    julai julho juli julie julij julijs julio juliol julius july juuli korr korrik liep liepa liepos lip lipca
    lipiec lug luglio lul lulju srp srpanj srpnja tem temmuz uzt uztaila xul xullo ιουλ ιουλιοσ ιουλιου июл июль
    июля лип липень липня ліп ліпень ліпеня юли јул јули יולי يوليو ژويیه जुलाई जुल॰ জুল জুলাই ก.ค กรกฎาคม
    """,
    """
    abu abuztua ag ago agost agosti agosto agu agust agustos agustus aout aug august augusta augusti augusts
    augustus augusztus avg avgust awst aww awwissu d’ag d’agost elo elokuu elokuuta gush gusht kol kolovoz
    kolovoza lun lunasa ogo ogos rugp rugpjucio rugpjutis sie sierpien sierpnia srp srpen srpna αυγ αυγουστοσ
    αυγουστου авг август августа жні жнівень жніуня серп серпень серпня אוגוסט אוג׳ اغسطس اوت अगसत अग॰ আগ আগসট
    ส.ค สิงหาคม
    """,
    """
    eyl eylul ira iraila medi mfomh rugs rugsejis rugsejo ruj rujan rujna sep sepr sept septemba september
    septembra septembre septembrie septembris septiembre set setembre setembro settembre settembru sht shtator
    syys syyskuu syyskuuta szept szeptember wrz wrzesien wrzesnia zar zari σεπ σεπτεμβριοσ σεπτεμβριου вер
    верасень верасня вересень вересня сент сентябрь сентября сеп септембар септември ספטמבר ספט׳ سبتمبر سپتامبر
    सितंबर सित॰ সেপ সেপটেমবর ก.ย กันยายน
    """,
    """
    dfomh d’oct d’octubre eki ekim hyd hydref listopada loka lokakuu lokakuuta oct october octobre octombrie
    octubre okt oktoba oktober oktobra oktobris oktoober ott ottobre ottubru out outubro paz pazdziernik
    pazdziernika rij rijen rijna spal spalio spalis tet tetor urr urria οκτ οκτωβριοσ οκτωβριου жовт жовтень
    жовтня кас кастрычнік кастрычніка окт октобар октомври октябрь октября אוקטובר אוק׳ اكتوبر اکتبر अकटूबर
    अकटू॰ অকটো অকটোবর ต.ค ตลาคม
    """,
    """
    aza azaroa kas kasım lapkr lapkricio lapkritis lis listopad listopada listopadu marras marraskuu marraskuuta
    nen nentor noiembrie nov novemba november novembra novembre novembris novembro novembru noviembre samh
    samhain stu studeni studenoga tach tachwedd νοε νοεμβριοσ νοεμβριου лист листопад листопада ліс лістапад
    лістапада нов новембар ное ноември нояб ноябрь ноября נובמבר נוב׳ نوامبر نوفمبر नवंबर नव॰ নভে নভেমবর พ.ย
    พฤศจิกายน
    """,
    """
    abe abendua ara aralık dec december decembra decembre decembrie decembris decembro des desemba desember
    desembre dets detsember dez dezember dezembro dhj dhjetor dic dicembre dicembru diciembre dis disember gru
    grudnia grudzien gruod gruodis gruodzio joulu joulukuu joulukuuta noll nollaig pro prosinac prosinca
    prosince prosinec rhag rhagfyr δεκ δεκεμβριοσ δεκεμβριου груд грудень грудня дек декабрь декабря декември
    дец децембар сне снежань снежня דצמבר דצמ׳ دسامبر ديسمبر दिसंबर दिस॰ ডিসে ডিসেমবর ธ.ค ธันวาคม
    """,
)
_WEEKDAYS = (
    """
    astelehena dilluns dl esmaspaev hen hetfo is isn isnin it-tnejn jumatatu llun luan lundi lunedi lunes luni
    luns maanantai maanantaina maandag man mandag manudagur mo mon monday montag pazartesi pirmadienis pirmd
    pirmdiena po pon pondeli pondelok ponedeljek ponedjeljak poniedziałek pr pzt seg segunda-feira senin tne δευ
    δευτερα панядзелак пн пон понеделник понедельник понедељак понеділок الاثنين دوشنبه
    """,
    """
    antradienis ar asteartea dienstag dimarts dinsdag dt it-tlieta jumanne kedd mairt mardi martedi martes marti
    otrd otrdiena sal salı sel selasa teisipaev ter terca-feira ti tiistai tiistaina tir tirs tirsdag tis tisdag
    tli torek tue tuesday ut utery uto utorak utorok wt wtorek þri þriðjudagur τρι τριτη ау ауторак вт вто
    вторник вівторок уто уторак الثلاثاء মঙগল
    """,
    """
    asteazkena az car carsamba cead dc dimecres erb jumatano ke keskiviikko keskiviikkona kolmapaev mer
    mercoledi mercores mercredi mi mie miercoles miercuri mittwoch mið miðvikudagur ons onsdag qua quarta-feira
    rab rabu sr sre sreda sri srijeda sroda streda sze szerda tr treciadienis tresd tresdiena wed wednesday wo
    woensdag τετ τεταρτη серада середа ср сре среда сряда الاربعاء چهارشنبه
    """,
    """
    alhamisi cet cetrtek ceturtd ceturtdiena cetvrtak chu csutortok ctvrtek czw czwartek dear deardaoin dijous
    dj donderdag donnerstag enj fim fimmtudagur gio giovedi iau il-ħamis jeu jeudi joi jue jueves kam kamis
    ketvirtadienis kha khamis kt neljapaev og osteguna per persembe qui quinta-feira stvrtok th thu thursday to
    tors torsdag torstai torstaina xov xoves ħam πεμ πεμπτη чацвер чет четвер четверг четвртак четврток
    четвъртък чт чц الخميس پنجشنبه พฤ
    """,
    """
    aoine cum cuma divendres dv fos fostudagur fr fre fredag freitag fri friday gim gwe gwen gwener ijumaa
    il-gimgħa jumaat jumat or ostirala patek penktadienis pentek perjantai perjantaina pet petak petek pi piatek
    piatok piektd piektdiena pre reede sex sexta-feira vendredi venerdi venres vie viernes vin vineri vr vrijdag
    vrydag παρ παρασκευη пʼятниця пет петак петок петък пт пятница пятніца الجمعة جمعه
    """,
    """
    cumartesi dissabte is-sibt jumamosi larunbata lau lauantai lauantaina laugardagur laupaev lor lordag lør
    lørdag sabado sabtu sad samedi samstag sat saterdag sath saturday sau sestadienis sestd sestdiena sob sobota
    subota szo szombat za zaterdag σαβ σαββατο саб сабота сб суб суббота субота събота שבת السبت شنبه
    """,
    """
    ahd dg die dimanche diumenge dom domenica domh domingo dum duminica ig igandea il-ħadd jumapili minggu ned
    nedela nedele nedelja nedjelja niedz niedziela pazar puhapaev sekmadienis sk son sondag sonntag sul sun
    sunday sunnudagur sunnuntai svetd svetdiena søn søndag vasarnap zo zondag ħad κυρ κυριακη воскресенье вс нд
    нед недела неделя недеља неділя нядзеля الاحد یکشنبه อา
    """,
)
_OTHER_WEEKDAYS = """
    ahad al an ba bay ceadaoin cmt cn cs ct de di diel dim do domhnaigh ds dydd enjte erbgħa feira gimgħa hai
    haoine hene il it jum la lr luain ma marte mercher merkure min nam ne nhat pa pe pn premte pt quarta quinta
    sa sab sabato sadwrn sam sambata sathairn segunda sen sexta shtune sib sibt so st su terca tlieta tnejn tor
    tu ven ħadd ħamis חמישי יום ראשון רביעי שישי שלישי שני سه कर करव गल गलव धव मव रव शन কর করব ধব মঙগলব মব রব শন
    হসপত งคาร ตย นจ นทร นพธ นพฤห นศกร นอ นอาท นเสาร สบด
"""  # parts of names, and such as different languages give to different days

MONTH_OF = {name: number for number, names in enumerate(_MONTHS, start=1) for name in names.split()}
WEEKDAY_OF = {name: number for number, names in enumerate(_WEEKDAYS, start=1) for name in names.split()}  # from Monday
WEEKDAYS = frozenset((*WEEKDAY_OF, *_OTHER_WEEKDAYS.split()))
